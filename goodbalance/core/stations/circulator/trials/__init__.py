"""Modes of a circulator side by side."""
