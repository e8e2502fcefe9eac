"""Routing: decisions, the map, rounds."""
