"""Readings: samples in, figures out."""
