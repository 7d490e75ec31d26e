"""Circulators: hot-water rings and heating circuits."""
