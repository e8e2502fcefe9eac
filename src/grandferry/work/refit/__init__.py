"""Refitting, bodies as they go over, and previews."""
