"""Files as what they are: type and size by their content."""
