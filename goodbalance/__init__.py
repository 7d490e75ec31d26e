"""Good Balance: every commissioning number of a pump station, with its reason, its proof and its record."""
