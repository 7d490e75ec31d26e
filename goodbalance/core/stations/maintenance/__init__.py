"""The pressure-maintenance pump of a fire line: it keeps the line at pressure so that the main pump starts only for a fire."""
