"""One burst, exact: what it is made of, the event loop, the answer and what limits it."""
