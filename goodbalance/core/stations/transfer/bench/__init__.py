"""A transfer set on the bench: plant and controller joined, broken on purpose, explained."""
