"""What is tried and measured on site at a booster set, and what it tells."""
