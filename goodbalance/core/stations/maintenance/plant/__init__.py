"""The survey as equations, and the water of the line as it moves."""
