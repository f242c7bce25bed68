"""What both code families share: physics of conductors, banks and droop, and tables that hold a row per family."""
