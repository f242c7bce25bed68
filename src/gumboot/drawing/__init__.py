"""Plan to SVG. Layout happens here, rules do not: every number drawn is a figure of the plan."""
