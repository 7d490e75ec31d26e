"""What is asked: facts and choices, and whether they fit together."""
