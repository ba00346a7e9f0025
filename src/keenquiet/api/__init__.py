"""The web API: thin routers over the services."""
