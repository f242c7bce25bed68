"""How many survey questions are answered."""

from __future__ import annotations

from gumboot.core.job import read_path
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.survey import questions_of


def unanswered(plan: Plan) -> tuple[int, int]:
    """Answered and all survey questions."""
    document = plan.job.model_dump()
    asked = questions_of(plan.job)
    return sum(read_path(document, q.path) not in (None, "") for q in asked), len(asked)
