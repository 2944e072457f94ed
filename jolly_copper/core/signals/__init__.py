"""Who is where, and what may move: occupancy, routes, aspects and the interlocking, worked out from the rails."""
