"""What outings came to: notes from the field, records, totals, and files of them."""
