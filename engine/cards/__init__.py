"""Memory cards by their public standards: what fits where, how fast, and what labels mean."""
