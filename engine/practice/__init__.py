"""Practice: a subject's runs, the presses of somebody who practises on them, and what they kept."""
