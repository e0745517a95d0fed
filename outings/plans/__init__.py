"""Days to come: their forms, what becomes of them, and what is taken into the field."""
