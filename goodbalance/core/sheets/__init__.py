"""From plan and controller family to the keypad: profiles, entry sheets, read-back."""
