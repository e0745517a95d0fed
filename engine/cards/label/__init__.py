"""The marks on a card's label: read, explained and checked."""
