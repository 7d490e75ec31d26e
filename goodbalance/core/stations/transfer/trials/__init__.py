"""Ways to work the same line, tried against each other."""
