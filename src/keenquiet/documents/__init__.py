"""Documents at the edges: `room.json` read, checked, converted to the core's values, compared and edited.

Import from its modules: what only needs the format does not load the geometry.
"""
