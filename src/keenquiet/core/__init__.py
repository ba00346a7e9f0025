"""The heart: pure computation. No web, database, files, clock or randomness of its own."""
