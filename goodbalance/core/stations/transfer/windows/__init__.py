"""Every setting of a transfer set in its window, and what follows from the plan."""
