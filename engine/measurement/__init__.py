"""What a body's hidden figures are, learnt from runs of it by simulation."""
