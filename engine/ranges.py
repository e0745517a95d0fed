"""How ranges are told: which ends, and from when on a difference is worth a word."""

LOW, MIDDLE, HIGH = 0.1, 0.5, 0.9  # four draws in five lie between the ends
NOTICED_SHARE = 0.1  # under a tenth nobody notices; docs/model.md says so of comparing cards
NOTICED_S = 0.3  # what a thumb on a stopwatch errs by
