"""What must be proved of a transfer plan, and how the bench shows it."""
