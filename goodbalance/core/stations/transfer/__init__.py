"""Transfer sets: a pump fills tanks from a source, and knows by pressure or by levels when they are full."""
