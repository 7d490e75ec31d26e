"""The circulator with its clock and its mode on the bench."""
