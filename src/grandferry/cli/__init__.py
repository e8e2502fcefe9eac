"""The same work without the interface."""
