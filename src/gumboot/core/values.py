"""Named values that belong together and are not changed: what a step gives, and what a rule is asked about."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any, ClassVar, Never, Self, dataclass_transform

from gumboot.core.once import once


@dataclass_transform(frozen_default=True, kw_only_default=True)
class Values(SimpleNamespace):
    """Declared like a dataclass, frozen, made by name alone; that the names are right is held by the type checker.

    The interpreter's own namespace fills it, without a constructor of each kind: a plan is made of a thousand of them.
    """

    # What it works out when first read: another has to work it out again.
    _looked_up: ClassVar[frozenset[str]] = frozenset()

    def __init_subclass__(cls) -> None:
        cls._looked_up |= {name for name, value in cls.__dict__.items() if isinstance(value, once)}

    def __setattr__(self, name: str, value: object) -> Never:
        raise AttributeError(f"{type(self).__name__} is frozen: {name}")

    def __delattr__(self, name: str) -> Never:
        raise AttributeError(f"{type(self).__name__} is frozen: {name}")

    def but(self, **changes: Any) -> Self:
        """The same with other values for some names. Raises AttributeError for a name that it has not."""
        for name in changes:
            getattr(self, name)
        given = self.__dict__
        if self._looked_up:
            given = {name: value for name, value in given.items() if name not in self._looked_up}
        return type(self)(**{**given, **changes})
