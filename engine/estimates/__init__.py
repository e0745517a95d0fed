"""What a body's hidden figures are likely to be, from the few answers that its owner can give."""
