"""How fast a body shoots that is said to shoot at a rate."""

from engine.figures.uncertainty import PRINTED, Skewed, Uncertainty

# Printed rates are those of a full battery, a fast lens and nothing else to do; docs/model.md.
PRINTED_RATE = Skewed.between(0.88, 0.98, 1.0, tail=0.1)


def of_rate(source: Uncertainty) -> Uncertainty:
    """How far off a rate is that is as sure as its source: a printed one is "up to"."""
    return PRINTED_RATE if source is PRINTED else source
