"""How fast a body shoots that is printed to shoot at a rate."""

from engine.figures.uncertainty import Skewed

# Printed rates are those of a full battery, a fast lens and nothing else to do; docs/model.md.
PRINTED_RATE = Skewed.between(0.88, 0.98, 1.0, tail=0.1)
