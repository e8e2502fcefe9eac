"""Landing."""
