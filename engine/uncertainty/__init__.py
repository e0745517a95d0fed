"""How sure a prediction is: Monte Carlo draws over what is known of each figure."""
