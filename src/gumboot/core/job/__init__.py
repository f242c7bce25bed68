"""What people decide for one house: one document, versioned by the store."""

from gumboot.core.job.model import Job
from gumboot.core.job.patch import BadPath, leaves, read_path, set_path, write_path

__all__ = ["BadPath", "Job", "leaves", "read_path", "set_path", "write_path"]
