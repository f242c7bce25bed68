"""Links: leads, addresses, terminators, and the order of programming."""
