"""What must be proved of a lift station, and what the bench can show of it."""
