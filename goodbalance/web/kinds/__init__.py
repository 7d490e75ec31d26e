"""What only one kind of station shows: its picture, its bench, its extra pages."""
