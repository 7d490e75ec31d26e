"""What of a plan goes into keypads and wires, and what the devices really hold."""
