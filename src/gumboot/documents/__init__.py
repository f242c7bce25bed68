"""Plan and records as documents: PDF pack, CSV tables, JSON report, rule reference."""
