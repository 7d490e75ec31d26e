"""What the controller of a booster set does, and why."""
