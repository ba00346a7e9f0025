"""Hearing a room before it is built: an impulse response made of a forecast, and lines played through it."""
