"""Every setting in its window, and what follows from the plan."""
