"""What must be proved of a booster set, and what the bench can show of it."""
