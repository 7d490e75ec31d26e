"""A kind of station made up for the tests: a cistern that one pump fills up to one float. Nothing outside knows of it."""
