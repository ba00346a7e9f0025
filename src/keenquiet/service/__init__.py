"""Use cases: documents in, core called, results kept. Shared by the API and the command line."""
