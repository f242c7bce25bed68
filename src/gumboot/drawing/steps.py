"""The steps of a derivation, one row each: what a step gives runs down a rail of its own, with a dot in every row that needs it."""

from __future__ import annotations

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.steps import STEPS, Step
from gumboot.core.workbook import with_parts
from gumboot.drawing.svg import Canvas, text_width

ROW, TOP, LEFT, GAP = 26.0, 64.0, 20.0, 22.0
NAME_SIZE, WORDS_SIZE = 13.0, 12.0


def givers() -> list[Step]:
    """Steps whose value some other step needs, in the order of the table."""
    wanted = {need.partition(".")[0] for step in STEPS for need in step.needs}
    return [step for step in STEPS if step.name in wanted]


def left_behind(plan: Plan | None, step: Step) -> str:
    """How much a step worked out for one house."""
    if plan is None:
        return ""
    made = plan.run.made[step.name]
    parts = {"figure": with_parts(made.figures), "finding": made.findings, "gap": made.gaps, "field": made.reads}
    return ", ".join(f"{len(of)} {noun}{'' if len(of) == 1 else 's'}" for noun, of in parts.items()) + " read"


def canvas(plan: Plan | None = None) -> Canvas:
    """The drawing; with a plan, each row says what its step left."""
    rails = givers()
    first = LEFT + 110 + max(text_width(s.title, WORDS_SIZE) for s in STEPS) + 24
    at = {step.name: first + GAP * n for n, step in enumerate(rails)}
    width = first + GAP * len(rails) + (max(text_width(left_behind(plan, s), 11, mono=True) for s in STEPS) if plan else 0) + 40
    c = Canvas("steps", width, TOP + ROW * len(STEPS) + 16, "The steps of a derivation and what each needs")
    c.text(LEFT, 26, f"Steps of {plan.job.title}" if plan else "Steps of a derivation", 16, bold=True)
    c.text(LEFT, 44, "Ring: the step gives it. Dot: the step needs it, the whole part or one value of it (open dot).", 12, ink="pencil")
    rows = {step.name: TOP + ROW * (n + 0.5) for n, step in enumerate(STEPS)}
    for n, step in enumerate(STEPS):
        y = rows[step.name]
        if n % 2:
            c.rect(LEFT - 8, y - ROW / 2, width - 2 * LEFT + 16, ROW, "plaster")
        c.text(LEFT, y + 4, step.name, NAME_SIZE, bold=True)
        c.text(LEFT + 110, y + 4, step.title, WORDS_SIZE)
        c.text(width - LEFT, y + 4, left_behind(plan, step), 11, "end", "pencil", mono=True)
    for step in rails:
        x, last = at[step.name], max(rows[s.name] for s in STEPS if any(n.partition(".")[0] == step.name for n in s.needs))
        c.line(x, rows[step.name], x, last, "green", 1.6)
        c.circle(x, rows[step.name], 5.5, "white", "green", 2.2)
    for step in STEPS:
        for need in step.needs:
            giver, _, value = need.partition(".")
            c.circle(at[giver], rows[step.name], 4.2, "white" if value else "green", "green", 1.6)
    return c
