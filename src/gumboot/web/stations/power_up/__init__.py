"""Power up: one switch after the other, each when what it makes live is proved."""
