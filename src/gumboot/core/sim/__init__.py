"""Small simulations: hours of an outage, the live board, CT readings."""
