"""Grand Ferry carries a web site from an old content system to a new one and accounts for all of it."""

__version__ = "0.1.0"
