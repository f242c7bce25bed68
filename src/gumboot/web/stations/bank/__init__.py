"""Bank: the batteries, what limits them, and what may join."""
