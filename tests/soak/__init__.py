"""The application under ill-treatment: kills, damaged files, generated requests. Short in `make test`, long by
`make soak`.
"""
