"""The railroad run on paper: trains, heads, power and faults of an evening, as a pure function of layout and plan."""
