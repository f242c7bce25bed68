"""Wire: every conductor lands with its torque."""
