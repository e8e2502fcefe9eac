"""Records of surveys."""
