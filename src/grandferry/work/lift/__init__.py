"""Lifting, and trying fields and rules before they are saved."""
