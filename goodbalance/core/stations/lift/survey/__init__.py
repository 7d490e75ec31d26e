"""What is asked of a lift station: facts, and what the person decides."""
