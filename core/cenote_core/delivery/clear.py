"""What light goes through and is bent by, for files."""

from .listing import Finish, Volume

_ROUGH, _THICK = 0.02, 0.01
"""Roughness of ice and drops, and the metres of them light goes through, for renderers that do not trace it."""


def clear(name: str, index: float) -> Finish:
    """A clear body with an index of refraction."""
    return Finish(name, metalness=0.0, roughness=_ROUGH, transmits=1.0, bends=index, volume=Volume(_THICK))
