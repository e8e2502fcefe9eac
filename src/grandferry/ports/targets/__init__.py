"""Where items are delivered. One small class a target."""
