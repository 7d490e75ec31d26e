"""What the controller of a lift station does, and why."""
