"""Settings: what the inverter is told, and what it was left at."""
