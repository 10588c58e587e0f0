"""Path-traced stills: traced where samples are needed, shown while they grow, denoised and written."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from ..errors import CenoteError
from ..mesh import engine
from ..proof_scene.detail import GOOD, ROUGH, Detail
from ..scene.scene import Scene
from ..tracer.film import FEATURES, Film, empty_film, load_film, noisy, save_film, tiled
from ..tracer.paths import View, see, trace
from . import picture
from .falling import falling_over
from .kept import KeptStage
from .prepare import Stage, camera, give_back, prepare
from .settings import FILM, ProofSettings

__all__ = ["FILM", "ProofSettings", "Tracing", "Watch", "forget_last", "render_proof"]
_LAST = KeptStage()
_AT_ONCE = 2**18
"""Samples traced in one go, about a second's work: between two the picture may be looked at, stopped or paused."""
_BEGINNING = (1, 2, 4)
"""Samples a pixel in the rounds after the very first, of one: there is something to see soon, and it grows."""
_ROUND = 4
"""Samples a pixel in each round after that, where it is still too noisy."""
_FIRST_LOOK, _SLOWEST_LOOK = 2.0, 15.0
"""Seconds between two pictures of what is there so far: at the beginning, and later on."""
_MISSED = 2.0
"""Noise told by the first few samples lacks what rare bright ones bring: so many times as much work is left (measured)."""
_RECKON_EVERY = 3.0
"""Seconds between two reckonings of how many samples it will take."""
_PREPARED, _TRACED = 0.15, 0.95
"""Shares of a proof done when the light begins, and when it ends."""
_GUIDED = 0.07
"""Share of a proof done when one ray of each pixel has told what it shows."""
_EDGE_DEPTH = 0.02
_EDGES = {"normal": 0.25, "colour": 0.08}
"""Difference from pixel to pixel, of depth as a share of it, from which several rays tell what one shows."""
_MOST_COUNT = 60_000
"""Samples a pixel's counter can hold, with room for a round."""


@dataclass
class Watch:
    """What whoever asked for a proof is told, and may ask for meanwhile.

    Attributes
    ----------
    report : is called with the stage, the share done 0..1 and the seconds left (None if not known); may raise to stop
    enough : True once what is there is good enough
    looked : is called when there is a new picture of what is there so far
    """

    report: Callable[[str, float, float | None], None]
    enough: Callable[[], bool] = lambda: False
    looked: Callable[[], None] = lambda: None


def render_proof(
    scene: Scene, settings: ProofSettings, folder: Path, watch: Watch, go_on: bool = False, detail: Detail | None = None
) -> dict[str, Any]:
    """Render a station into `folder`: picture.png and passes.exr (see `passes.LAYERS`).

    Parameters
    ----------
    go_on : begin with the samples that lie in the folder, and ask for half the noise they were good enough with
    detail : how fine; as the settings say without it

    Returns
    -------
    dict with `files` (name → size in bytes), `seconds`, `samples` (mean a pixel), `noise` (standard error on the
    screen, 0..1), `triangles`, `width` and `height`
    """
    station = scene.site.stations.get(settings.station)
    if station is None:
        raise CenoteError("That station is gone. Choose another one.")
    detail = detail or (ROUGH if settings.quality == "rough" else GOOD)
    started = time.monotonic()
    watch.report("gathering the site", 0.02, None)
    # A good proof takes minutes anyway, and the memory that a kept stage would hold beside it.
    gather = _LAST.get if detail.half_light else prepare
    stage = gather(scene, station, (settings.width, settings.height), detail)
    watch.report("light", _PREPARED, None)
    job = Tracing(scene, stage, settings, detail, folder, watch)
    clean, passes = job.half() if detail.half_light else job.full(go_on)
    watch.report("writing files", 0.97, None)
    size = settings.width, settings.height
    air = {
        picture.HAZE: picture.haze(passes["depth"], scene),
        picture.FALLING: falling_over(passes["depth"], scene, station, size, job.box),
    }
    files = picture.write_files(folder, passes | air | {picture.CLEAN: clean}, scene.site.daylight.exposure)
    made = {
        "files": files,
        "seconds": round(time.monotonic() - started, 1),
        "samples": round(job.film.samples, 1),
        "noise": round(job.noise, 4),
        "triangles": stage.world.triangles,
        "width": clean.shape[1],
        "height": clean.shape[0],
    }
    # What holds the tables and the tree of the site goes before memory is handed back.
    del job, stage
    give_back()
    return made


def forget_last() -> None:
    """Give back what is kept for another rough proof of the same view."""
    _LAST.forget()
    give_back()


class Tracing:
    """One proof being traced."""

    def __init__(
        self, scene: Scene, stage: Stage, settings: ProofSettings, detail: Detail, folder: Path, watch: Watch
    ) -> None:
        self.scene, self.stage, self.detail, self.folder, self.watch = scene, stage, detail, folder, watch
        self.exposure = scene.site.daylight.exposure
        self.size = settings.width, settings.height
        self.box = settings.box(2 if detail.half_light else 1)
        self.film = empty_film(1, 1)
        self.noise, self._share = 0.0, 0.0
        self._looked, self._pause = time.monotonic(), _FIRST_LOOK
        self._wanted: np.ndarray | None = None
        self._reckoned = 0.0

    # Light at full size, as long as it is noisy ----------------------------------------------------------------

    def full(self, go_on: bool) -> tuple[np.ndarray, dict[str, np.ndarray]]:
        """Clean light and passes of the box."""
        kept = load_film(self.folder / FILM, *self.size) if go_on else None
        self.film = kept or empty_film(*self.size)
        view = engine.run(lambda mi: camera(self.stage.station, *self.size))
        pixels = tiled(*self.size, self.box)
        target, most = self.detail.noise, self.detail.most
        if kept is not None:
            target, most = min(target, self._noise_of(pixels)) / 2, min(int(kept.count.max()) * 4, _MOST_COUNT)
        begun = time.monotonic(), float(self.film.count[pixels].sum())
        for part, times in self._portions(pixels, target, most):
            self._trace(view, self.film, part, times)
            self._tell(pixels, target, most, begun)
            if time.monotonic() - self._looked > self._pause:
                self._look()
            if self.watch.enough() and self.film.count[pixels].all():
                break
        self.noise = self._noise_of(pixels)
        save_film(self.film, self.folder / FILM)
        self.watch.report("denoising", _TRACED, 2.0)
        return self._clean()

    def _portions(self, pixels: np.ndarray, target: float, most: int) -> Iterator[tuple[np.ndarray, int]]:
        """All rounds, in portions that are traced in one go."""
        for chosen, times in self._rounds(pixels, target, most):
            for part in _parts(chosen, times):
                yield part, times

    def _rounds(self, pixels: np.ndarray, target: float, most: int) -> Iterator[tuple[np.ndarray, int]]:
        """Which pixels are traced next, and how often each."""
        # Every other pixel of every other row first: they alone are a picture already.
        scattered = np.lexsort((pixels % self.size[0] % 2, pixels // self.size[0] % 2))
        untouched = self.film.count[pixels] == 0
        if untouched.any():
            yield pixels[scattered][untouched[scattered]], 1
        for times in _BEGINNING:
            lacking = pixels[self.film.count[pixels] < self.detail.first]
            if len(lacking):
                yield lacking, times
        while len(chosen := noisy(self.film, pixels, self.exposure, target, most)):
            yield chosen, _ROUND

    def _trace(self, view: View, film: Film, pixels: np.ndarray, times: int) -> None:
        every = np.repeat(pixels, times)
        number = np.repeat(film.count[pixels].astype(np.uint32), times) + np.tile(
            np.arange(times, dtype=np.uint32), len(pixels)
        )
        stage, bounces = self.stage, self.detail.bounces
        film.add(pixels, times, engine.run(lambda mi: trace(stage.world, stage.sky, view, every, number, bounces)))

    def _noise_of(self, pixels: np.ndarray) -> float:
        return float(np.sqrt(np.mean(np.square(self.film.noise(self.exposure)[pixels]))))

    def _tell(self, pixels: np.ndarray, target: float, most: int, begun: tuple[float, float]) -> None:
        """How far it is, from the samples that the noise so far lets expect."""
        count = self.film.count[pixels].astype(np.float64)
        done = float(count.sum()) - begun[1]
        now = time.monotonic()
        if self._wanted is None or now - self._reckoned > _RECKON_EVERY:
            noise = self.film.noise(self.exposure)[pixels]
            least = float(self.detail.first)
            self._wanted = np.where(count > 1, np.clip(count * np.square(noise / target), least, most), least)
            self._reckoned = now
        left = float(np.maximum(self._wanted - count, 0).sum())
        if count.min() < self.detail.first:
            left *= _MISSED
        rate = done / max(now - begun[0], 1e-3)
        # What is expected grows at times; the share that was told never shrinks.
        self._share = max(self._share, done / max(done + left, 1.0))
        seconds = left / rate if rate > 0 and count.min() > 1 else None
        stage = f"light, {self.film.samples:.0f} samples a pixel"
        self.watch.report(stage, _PREPARED + (_TRACED - _PREPARED) * self._share, seconds)

    def _clean(self, some: tuple[slice, slice] | None = None) -> tuple[np.ndarray, dict[str, np.ndarray]]:
        """Light without noise and passes of the box, or of some of its rows and columns."""
        left, top, right, bottom = self.box
        cut = lambda plane: np.ascontiguousarray(plane[top:bottom, left:right][some or ...])  # noqa: E731
        passes = {name: cut(self.film.mean(name)) for name in FEATURES} | {"beauty": cut(self.film.beauty())}
        return picture.denoised(passes), passes

    def _look(self) -> None:
        left, top, right, bottom = self.box
        count = self.film.count.reshape(self.film.height, self.film.width)[top:bottom, left:right]
        # Pixels without a sample yet are shown as their neighbours with even row and column are.
        even = slice(top % 2, None, 2), slice(left % 2, None, 2)
        if (count[even] == 0).any():
            return
        clean, passes = self._clean(None if count.all() else even)
        seen = picture.laid_over(clean, picture.haze(passes["depth"], self.scene))
        picture.write_growing(self.folder, seen, self.exposure)
        self.watch.looked()
        self._looked, self._pause = time.monotonic(), min(self._pause * 1.5, _SLOWEST_LOOK)

    # Light at half size, lifted --------------------------------------------------------------------------------

    def half(self) -> tuple[np.ndarray, dict[str, np.ndarray]]:
        """Clean light and passes of the box, light traced for every other pixel of every other row."""
        features = self._features()
        left, top, right, bottom = (side // 2 for side in self.box)
        width, height = (self.size[0] + 1) // 2, (self.size[1] + 1) // 2
        right, bottom = (self.box[2] + 1) // 2, (self.box[3] + 1) // 2
        self.film = empty_film(width, height)
        view = engine.run(lambda mi: camera(self.stage.station, width, height))
        pixels = tiled(width, height, (left, top, right, bottom))
        for sample in range(self.detail.most):
            for part in _parts(pixels, 1):
                done = (sample + len(part) / len(pixels)) / self.detail.most
                self._trace(view, self.film, part, 1)
                self.watch.report("light", 0.3 + 0.6 * done, None)
        self.watch.report("denoising", _TRACED, 1.0)
        self.noise = self._noise_of(pixels)
        light = self.film.mean("light")[top:bottom, left:right]
        clean, rough = picture.lifted_to_full(light, features)
        passes = {name: features[name] for name in FEATURES} | {"beauty": rough}
        return clean, passes

    def _features(self) -> dict[str, np.ndarray]:
        """What each pixel of the box shows, (h, w, …): of one ray, and the mean of several where something has an edge."""
        left, top, right, bottom = self.box
        rows, columns = np.mgrid[top:bottom, left:right].astype(np.uint32)
        pixels = (rows * np.uint32(self.size[0]) + columns).ravel()
        size = bottom - top, right - left
        first = self._seen(pixels, np.zeros(len(pixels), np.uint32), _GUIDED)
        uneven = np.flatnonzero(_edges({name: _grid(plane, size) for name, plane in first.items()}))
        more = self.detail.features - 1
        if more > 0 and len(uneven):
            every, number = (
                np.repeat(pixels[uneven], more),
                np.tile(np.arange(1, more + 1, dtype=np.uint32), len(uneven)),
            )
            found = self._seen(every, number, 2 * _GUIDED)
            for name, plane in first.items():
                others = found[name].reshape(len(uneven), more, *plane.shape[1:]).sum(axis=1)
                plane[uneven] = (plane[uneven] + others) / self.detail.features
        return {name: _grid(plane, size) for name, plane in first.items()}

    def _seen(self, pixels: np.ndarray, number: np.ndarray, share: float) -> dict[str, np.ndarray]:
        """What rays of pixels meet, each the sample of that number; `share` of the proof is done then."""
        view = engine.run(lambda mi: camera(self.stage.station, *self.size))
        parts = []
        for start in range(0, len(pixels), _AT_ONCE):
            some, which = pixels[start : start + _AT_ONCE], number[start : start + _AT_ONCE]
            parts.append(engine.run(lambda mi, p=some, n=which: see(self.stage.world, self.stage.sky, view, p, n)))  # type: ignore[misc]
            self.watch.report("surfaces", _PREPARED + share, None)
        return {name: np.concatenate([np.asarray(part[name], np.float32) for part in parts]) for name in parts[0]}


def _edges(features: dict[str, np.ndarray]) -> np.ndarray:
    """(h, w) bool: does a pixel show something else than one beside it, so that one ray would not tell what it shows?"""
    depth = features["depth"]
    found = np.zeros(depth.shape, bool)
    for axis in (0, 1):
        near = [np.take(depth, np.arange(k, depth.shape[axis] - 1 + k), axis) for k in (0, 1)]
        differs = np.abs(near[0] - near[1]) > _EDGE_DEPTH * np.minimum(near[0], near[1])
        for name, most in _EDGES.items():
            step = np.abs(np.diff(features[name], axis=axis))
            differs |= step.max(axis=-1) > most
        ahead = [slice(None)] * 2
        ahead[axis] = slice(0, -1)
        behind = [slice(None)] * 2
        behind[axis] = slice(1, None)
        found[tuple(ahead)] |= differs
        found[tuple(behind)] |= differs
    return found


def _grid(plane: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    return np.ascontiguousarray(plane.reshape(*size, *plane.shape[1:]), np.float32)


def _parts(pixels: np.ndarray, times: int) -> Iterator[np.ndarray]:
    """Pixels in pieces that are traced in one go."""
    step = max(1, _AT_ONCE // times)
    for start in range(0, len(pixels), step):
        yield pixels[start : start + step]
