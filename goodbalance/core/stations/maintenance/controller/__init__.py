"""The program its controller runs, and what it does with it."""
