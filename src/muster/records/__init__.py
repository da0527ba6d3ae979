"""What is kept: models, the bridge to core values, and the actions that change state."""
