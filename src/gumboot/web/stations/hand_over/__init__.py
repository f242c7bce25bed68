"""Hand over: what is missing, who signs, what leaves the house."""
