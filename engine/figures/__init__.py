"""What a figure is: how sure it is, what it is a figure of, and where it came from."""
