"""What is asked of a booster set: facts, and what the person decides."""
