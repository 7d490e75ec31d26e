"""Water, signals, wells, pumps and pipework: standard formulas in SI."""
