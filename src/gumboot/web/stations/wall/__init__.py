"""Wall: what hangs where, and every hole."""
