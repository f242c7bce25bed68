"""What an id of a job may look like. Within that, ids are the job's own: any name will do."""

NAME = r"^[A-Za-z0-9-]{1,40}$"
