"""What is asked of a transfer set, and what is decided."""
