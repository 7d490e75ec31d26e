"""What must be proved, and what the bench can show of it."""
