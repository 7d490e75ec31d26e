"""What is tried and measured on site at a lift station, and what it tells."""
