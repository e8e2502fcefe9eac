"""Lists of addresses for the interface."""
