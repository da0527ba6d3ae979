"""What was logged and captured, on one clock."""
