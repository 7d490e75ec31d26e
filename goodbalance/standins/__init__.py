"""Simulated devices that ship with the app: they speak Modbus TCP, run the program typed into them, and can be made to fail."""
