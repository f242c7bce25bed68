"""Pictures for the hand: what a phone shows of one act, drawn so that it can be looked at close by, and laid beside the part itself."""
