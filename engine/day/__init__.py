"""A day of presses on one set-up: how it was, and how it would have been with another."""
