"""The compiled loops that evaluate very many options."""
