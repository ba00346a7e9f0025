"""Takes: levels, headroom and faults of a recorded performance."""
