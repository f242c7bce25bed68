"""The stations of a job, each in a folder of its own: handler, typed view, page, and the script of what only it does."""
