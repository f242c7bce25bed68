"""One module per question a practitioner asks; ``derive`` puts their answers in order."""
