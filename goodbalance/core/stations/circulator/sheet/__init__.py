"""What is typed, held and wired, and the cautions that go with it."""
