"""Live checks: what is measured with power on, boxes closed, labels, numbers."""
