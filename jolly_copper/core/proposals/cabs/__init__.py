"""Direct current with cabs: where the railroad parts into blocks, and the change that makes them."""
