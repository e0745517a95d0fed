"""Days that were shot, replayed from their pictures."""
