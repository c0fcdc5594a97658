"""The web interface: routers that parse, call a service and answer, and the built page."""
