"""What is typed into the devices of a booster set and read back."""
