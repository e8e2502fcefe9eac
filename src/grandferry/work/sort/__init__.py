"""Sorting."""
