"""The room as a value: shape, surfaces, materials, furnishings, arrangements."""
