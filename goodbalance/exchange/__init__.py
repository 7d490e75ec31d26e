"""The edges: numbers as people type them, and open files in and out."""
