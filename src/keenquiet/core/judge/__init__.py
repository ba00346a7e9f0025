"""Judgement: the four marks, wanted values, next moves."""
