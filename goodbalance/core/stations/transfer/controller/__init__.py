"""The controller of a transfer set: its numbers, and its states as a table."""
