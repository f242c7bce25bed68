"""What a rule is asked about."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Never, dataclass_transform


@dataclass_transform(frozen_default=True, kw_only_default=True)
class Facts(SimpleNamespace):
    """Facts by name, frozen. A plan asks hundreds of questions of a hundred kinds: a namespace is made without a constructor of its own."""

    def __setattr__(self, name: str, value: object) -> Never:
        raise AttributeError(f"facts are frozen: {name}")

    def __delattr__(self, name: str) -> Never:
        raise AttributeError(f"facts are frozen: {name}")
