"""Quick sums: single questions without a job, on the same rule books and with the same workings as a whole plan."""

from gumboot.core.sums.register import SUMS, Sum, ask_sum

__all__ = ["SUMS", "Sum", "ask_sum"]
