"""The command line: start, check, measure, look after the database."""
