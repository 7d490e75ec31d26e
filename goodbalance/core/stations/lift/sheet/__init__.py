"""What is typed into the devices of a lift station and read back."""
