"""Sorting pages into kinds."""
