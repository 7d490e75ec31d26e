"""A surveyed transfer set as equations: sources, pumps, line, tanks with their valves."""
