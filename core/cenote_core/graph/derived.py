"""Declaring values that follow from a site, and asking for them.

A derived value is a function with declared needs:

    @derived(lambda scene, owner: [scene.mesh.ref(owner)])
    def triangles(scene, owner): ...

Its key is the hash of its name, the code it is made by and its needs: settings (anything that can be hashed) and
references to other derived values. So the key is known without computing anything, nobody writes one by hand, and it
changes whenever a setting, a value it is made from, or the code does. While a value is made it may ask only for what
hangs on its declared needs; anything else raises `UndeclaredNeed` on the first run instead of going stale later.

Keys are made before anything is locked or computed, so values that ask for each other in a ring are found there (see
`Scene.asking`), and askers wait for each other along an acyclic graph only.
"""

from __future__ import annotations

import functools
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field
from typing import Any, Concatenate, Generic, Literal, ParamSpec, Protocol, TypeVar, cast, overload

import numpy as np
from pydantic import BaseModel

from ..hashing import content_hash
from .store import Cache
from .version import code_version

H = TypeVar("H", bound="Host")
P = ParamSpec("P")
T = TypeVar("T")
Keep = Literal["memory", "disk", "not"]


class Host(Protocol):
    """What derived values are asked of: where they are kept, and references that were made before."""

    @property
    def cache(self) -> Cache: ...
    @property
    def memo(self) -> dict[Any, Any]: ...


class UndeclaredNeed(RuntimeError):
    """A value was made from something that its needs do not name."""


@dataclass(frozen=True)
class Key:
    """What a derived value is and hangs on. It holds no value and no host, so that a host may hold it.

    Attributes
    ----------
    within : keys of everything it hangs on, its own included
    constant : does it hang on nothing at all?
    """

    key: str
    name: str
    needs: tuple[Key, ...] = field(repr=False)
    within: frozenset[str] = field(repr=False)
    constant: bool = field(repr=False)

    def hangs_on(self, declared: frozenset[str]) -> bool:
        """Is it declared, or made from nothing but what is?"""
        if self.key in declared or self.constant:
            return True
        return bool(self.needs) and all(need.hangs_on(declared) for need in self.needs)


@dataclass(frozen=True)
class Ref(Generic[T]):
    """A derived value: what it is, and how to come by it."""

    of: Key
    make: Callable[[], T] = field(repr=False)
    cache: Cache = field(repr=False)
    keep: Keep = field(repr=False)

    @property
    def key(self) -> str:
        """Hash of everything it hangs on."""
        return self.of.key

    @property
    def name(self) -> str:
        """The function that makes it."""
        return self.of.name

    def value(self, keep: Keep | None = None) -> T:
        """The value, from the cache or made now; kept as declared, or otherwise for this once."""
        self._may_be_asked()
        keep = keep or self.keep
        if keep == "not":
            return self._made()
        return self.cache.get(self.key, self._made, keep == "disk")

    def _made(self) -> T:
        before = _making.set(self.of)
        try:
            return self.make()
        finally:
            _making.reset(before)

    def _may_be_asked(self) -> None:
        maker = _making.get()
        if maker is not None and not self.of.hangs_on(maker.within):
            raise UndeclaredNeed(f"{maker.name} asked for {self.name}, which its needs do not name")


_making: ContextVar[Key | None] = ContextVar("making", default=None)


@contextmanager
def by_value() -> Iterator[None]:
    """For what is asked while needs are named, and for what counts by its value: a key holds the answer itself."""
    before = _making.set(None)
    try:
        yield
    finally:
        _making.reset(before)


def flattened(needs: Any, refs: list[Key]) -> Any:
    """Needs as something that can be hashed; what is referred to is gathered in `refs` and counts by its key."""
    if isinstance(needs, Ref):
        refs.append(needs.of)
        return needs.key
    if isinstance(needs, BaseModel):
        return needs.model_dump()
    if isinstance(needs, dict):
        return {str(name): flattened(need, refs) for name, need in needs.items()}
    if isinstance(needs, list | tuple):
        return [flattened(need, refs) for need in needs]
    if isinstance(needs, np.ndarray):
        return content_hash(needs)
    if isinstance(needs, type) or callable(needs):
        return [needs.__module__, needs.__qualname__, code_version(needs.__module__)]
    return needs


class Derived(Generic[H, P, T]):
    """A function whose values are kept under keys that follow from its needs."""

    def __init__(
        self,
        make: Callable[Concatenate[H, P], T],
        needs: Callable[Concatenate[H, P], Any],
        keep: Keep,
    ) -> None:
        functools.update_wrapper(cast(Any, self), make)
        self.make, self.needs, self.keep = make, needs, keep
        self.name = f"{make.__module__}.{make.__qualname__}"

    def __call__(self, host: H, *args: P.args, **kwargs: P.kwargs) -> T:
        return self.ref(host, *args, **kwargs).value()

    def ref(self, host: H, *args: P.args, **kwargs: P.kwargs) -> Ref[T]:
        """The value without making it: what other values name among their needs, and addresses carry."""
        make = functools.partial(self.make, host, *args, **kwargs)
        return Ref(self._key(host, *args, **kwargs), make, host.cache, self.keep)

    def _key(self, host: H, *args: P.args, **kwargs: P.kwargs) -> Key:
        known = (self.name, *map(_identity, args))
        if not kwargs and known in host.memo:
            return cast("Key", host.memo[known][0])
        refs: list[Key] = []
        with by_value():
            parts = flattened(self.needs(host, *args, **kwargs), refs)
        key = content_hash(self.name, code_version(self.make.__module__), parts)
        within = frozenset([key]).union(*(ref.within for ref in refs))
        found = Key(key, self.name, tuple(refs), within, parts == [])
        if not kwargs:
            # With the arguments, so that none of them makes room for another one at the same address; but not with
            # references, which hold their host.
            host.memo[known] = found, [argument for argument in args if not isinstance(argument, Ref)]
        return found

    @overload
    def __get__(self, host: None, kind: type) -> Derived[H, P, T]: ...
    @overload
    def __get__(self, host: H, kind: type) -> Bound[P, T]: ...
    def __get__(self, host: H | None, kind: type) -> Derived[H, P, T] | Bound[P, T]:
        return self if host is None else Bound(self, host)


class Bound(Generic[P, T]):
    """A derived value of one host, where it is declared as a method."""

    def __init__(self, derived: Derived[Any, P, T], host: Any) -> None:
        self.derived, self.host = derived, host

    def __call__(self, *args: P.args, **kwargs: P.kwargs) -> T:
        return self.derived(self.host, *args, **kwargs)

    def ref(self, *args: P.args, **kwargs: P.kwargs) -> Ref[T]:
        """See `Derived.ref`."""
        return self.derived.ref(self.host, *args, **kwargs)


def _identity(argument: Any) -> Any:
    """What tells an argument from another within one host; plans are never changed, so each counts by itself."""
    if isinstance(argument, Ref):
        return argument.key
    if isinstance(argument, tuple):
        return tuple(map(_identity, argument))
    return argument if isinstance(argument, str | int | float | type(None)) else id(argument)


def derived(
    needs: Callable[Concatenate[H, P], Any], keep: Keep = "memory"
) -> Callable[[Callable[Concatenate[H, P], T]], Derived[H, P, T]]:
    """Declare a derived value.

    Parameters
    ----------
    needs : function of the same arguments that gives everything the value is made from: settings, references
        (`other.ref(…)`), functions and classes, which count by their code; nested in lists and dictionaries as convenient
    keep : in memory; on disk too, for other processes and later days; or not at all
    """

    def declare(make: Callable[Concatenate[H, P], T]) -> Derived[H, P, T]:
        return Derived(make, needs, keep)

    return declare
