"""Questions asked of a finished plan that are too heavy, or too special, to be worked out at every edit.

Each module answers one: a year of operation, the best pick of circuits, the layouts of a roof, what would change a
figure, what differs between two designs. A study reads a plan and never changes it.
"""
