"""Named values that belong together and are not changed: what a step gives, and what a rule is asked about."""

from __future__ import annotations

from functools import cached_property
from types import SimpleNamespace
from typing import Any, Never, Self, dataclass_transform


@dataclass_transform(frozen_default=True, kw_only_default=True)
class Record(SimpleNamespace):
    """Declared like a dataclass, frozen, made by name alone. The interpreter's own namespace fills it: a plan is made of a thousand of them."""

    def __setattr__(self, name: str, value: object) -> Never:
        raise AttributeError(f"{type(self).__name__} is frozen: {name}")

    def __delattr__(self, name: str) -> Never:
        raise AttributeError(f"{type(self).__name__} is frozen: {name}")

    def but(self, **changes: Any) -> Self:
        """The same with other values for some names. Raises AttributeError for a name that it has not."""
        for name in changes:
            getattr(self, name)
        kind = type(self)
        # Not what it has looked up for itself meanwhile.
        given = {name: value for name, value in self.__dict__.items() if not isinstance(getattr(kind, name, None), cached_property)}
        return kind(**given | changes)
