"""Answers: what the API and the command line give, each described once (docs/formats.md) and made from the core's
values.
"""
