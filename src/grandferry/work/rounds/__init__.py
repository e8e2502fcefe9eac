"""What is behind, and bringing it up to date."""
