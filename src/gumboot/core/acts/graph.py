"""All acts of a house with what comes before each, and what holds one back as things stand."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from enum import StrEnum
from typing import NamedTuple

from gumboot.core.acts.act import Act, Kind
from gumboot.core.errors import GumbootError


class State(StrEnum):
    """How an act stands: not done, done and good, done and bad, cleared by a licence holder, or true no more.

    ``USED`` is one that was true when the act which it guards was done and has since grown old or been moved: it counts for what was done
    on its strength, and for nothing new.
    """

    OPEN = "open"
    GOOD = "good"
    FAILED = "failed"
    CLEARED = "cleared"
    LAPSED = "lapsed"
    USED = "used"


class Stands(NamedTuple):
    """How one act stands and why, in words."""

    state: State
    why: str = ""

    @property
    def holds(self) -> bool:
        """Whether what comes after it may rest on it."""
        return self.state in (State.GOOD, State.CLEARED)


class Trouble(NamedTuple):
    """An act that holds another back, and how it stands."""

    act: Act
    state: State
    why: str

    @property
    def text(self) -> str:
        """In words, as a page says it."""
        said = f": {self.why}" if self.why else ""
        match self.state:
            case State.OPEN:
                return f"not done yet: {self.act.title}{f' ({self.why})' if self.why else ''}"
            case State.FAILED:
                return f"failed: {self.act.title}{said}"
            case _:
                return f"true no more: {self.act.title}{said}"

    @property
    def opens(self) -> str:
        """What opens the gate again."""
        match self.state:
            case State.OPEN:
                return "Do it and record it."
            case State.FAILED:
                return "Mend the cause, do it again, and record it." if self.act.id != PLAN else "Mend the plan."
            case _:
                return "Do it again, and record it."


OPEN = Stands(State.OPEN)
# The plan itself, judged by its stops: nothing is made live under one that has any.
PLAN = "plan:clear"


class Acts(Mapping[str, Act]):
    """The acts of a house by id, in the order of the work. Raises GumbootError for two of one id and for one that is needed and not there."""

    def __init__(self, all_acts: tuple[Act, ...]) -> None:
        self._by_id = {act.id: act for act in all_acts}
        if len(self._by_id) < len(all_acts):
            ids = [act.id for act in all_acts]
            raise GumbootError(f"two acts are called {next(i for i in ids if ids.count(i) > 1)}")
        for act in all_acts:
            if missing := [i for i in (*act.needs, *act.heeds) if i not in self._by_id]:
                raise GumbootError(f"{act.id} waits for {missing[0]}, which is no act of this house")
        # By an act: those that wait for it themselves; and all behind one, once somebody asked.
        self._next: dict[str, list[str]] = {}
        self._behind: dict[str, tuple[Act, ...]] = {}
        for act in all_acts:
            for name in (*act.needs, *act.heeds):
                self._next.setdefault(name, []).append(act.id)

    def __getitem__(self, act_id: str) -> Act:
        return self._by_id[act_id]

    def __iter__(self) -> Iterator[str]:
        return iter(self._by_id)

    def __len__(self) -> int:
        return len(self._by_id)

    def of(self, station: str) -> tuple[Act, ...]:
        """The acts of a station, in order."""
        return tuple(act for act in self._by_id.values() if act.station == station)

    def before(self, act_id: str) -> tuple[Act, ...]:
        """Everything that comes before an act, whatever is between, in the order of the work."""
        seen, queue = set[str](), [act_id]
        while queue:
            act = self._by_id[queue.pop()]
            for name in (*act.needs, *act.heeds):
                if name not in seen:
                    seen.add(name)
                    queue.append(name)
        return tuple(act for act in self._by_id.values() if act.id in seen)

    def behind(self, act_id: str) -> tuple[Act, ...]:
        """Everything that an act comes before, whatever is between, in the order of the work; worked out once."""
        found = self._behind.get(act_id)
        if found is None:
            seen, queue = set[str](), [act_id]
            while queue:
                for name in self._next.get(queue.pop(), ()):
                    if name not in seen:
                        seen.add(name)
                        queue.append(name)
            found = self._behind[act_id] = tuple(act for act in self._by_id.values() if act.id in seen)
        return found


class Gates:
    """The gates of all acts as things stand, each act looked at once."""

    def __init__(self, acts: Acts, standing: Mapping[str, Stands]) -> None:
        self.acts, self.standing = acts, standing
        self._of: dict[str, dict[str, Trouble]] = {}

    def held_by(self, act_id: str) -> tuple[Trouble, ...]:
        """What holds an act back, nearest first; nothing where its gate is open, and for one that makes safe."""
        act = self.acts[act_id]
        return () if act.makes_safe else tuple(self._troubles(act).values())

    def _troubles(self, act: Act) -> dict[str, Trouble]:
        """By id: what it needs and has not, and what it heeds and has failed; of what it has, the same of everything before."""
        # What an act used up when it was done is not asked for again; only what makes something live asks for proofs of the day.
        is_done = self.standing.get(act.id, OPEN).state in (State.GOOD, State.CLEARED, State.USED)
        takes_used = is_done or act.kind not in (Kind.STEP, Kind.RITUAL)
        found: dict[str, Trouble] = {}
        for name in act.needs:
            stands = self.standing.get(name, OPEN)
            if stands.holds or (takes_used and stands.state is State.USED):
                continue
            found[name] = Trouble(self.acts[name], State.LAPSED if stands.state is State.USED else stands.state, stands.why)
        for name in act.heeds:
            stands = self.standing.get(name, OPEN)
            if stands.state is State.FAILED:
                found[name] = Trouble(self.acts[name], stands.state, stands.why)
        for name in act.needs:
            if name not in found:
                found |= self._known(self.acts[name])
        return found

    def _known(self, act: Act) -> dict[str, Trouble]:
        """The same of an act before it, worked out once."""
        known = self._of.get(act.id)
        if known is None:
            known = self._of[act.id] = self._troubles(act)
        return known
