"""What a link leads to, as it stands now."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from ..content import Content
from ..items.links import LeadNow, Link


@dataclass(frozen=True)
class MadeNow:
    """What the rule of a derived track makes of its lead now: the content without links, and the link; `base` are the
    marks of what it gave last where the link of an older release has none."""

    content: Content
    link: Link
    base: Mapping[str, str] = field(default_factory=dict)


Origin = LeadNow | MadeNow
