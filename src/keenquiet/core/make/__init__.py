"""Making things: what is cut from what, and what it takes."""
