"""What is said to a musician: words, cautions and prices, keyed. The core computes; this says it."""
