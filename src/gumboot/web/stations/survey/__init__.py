"""Survey: the questions that the plan rests on, and the equipment."""
