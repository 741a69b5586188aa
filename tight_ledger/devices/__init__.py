"""The device protocol, and stand-ins for outside instruments that speak it."""
