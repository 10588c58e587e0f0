"""The same places, once drawn by the plate's shader and once worked out in Python."""

import numpy as np
from scipy.ndimage import map_coordinates

from cenote_core.decals.project import decal_mesh, stacked
from cenote_core.materials.material import linear_to_srgb, srgb_to_linear
from cenote_core.measures.height import HeightRule
from cenote_core.measures.noise import NoiseRule
from cenote_core.mesh.mesh import points_on
from cenote_core.mesh.texels import sample_map
from cenote_core.patinas.bake import blend_values
from cenote_core.patinas.cover import owner_covers, stack
from cenote_core.patinas.triplanar import ground_triplanar
from cenote_core.plan import (
    DecalPlan,
    Finish,
    Gate,
    GroundLayer,
    GroundPlan,
    PatinaPlan,
    PatinaUse,
    PiecePlan,
    StationPlan,
    Terrace,
    WeatherPlan,
)
from cenote_core.stations.camera import axes, field_of_view
from cenote_core.surfaces import channels
from cenote_core.weather.exposure import exposure_at
from sites.computing import scene_of

from .browser import BrowserTest
from .helpers import first_hits, site_of

SIDE, BLOCK = 180, 6
SHOWN_HEIGHT = 0.05
"""Metres from middle grey to white in the view of heights."""
DECAL = "leak"
APART = {"slope": 0.025}
"""Mean difference of blocks a channel may have where it is not 6/255: a smaller picture loses fine slopes first."""
LEVEL = 0.005
"""Spread of a channel, of 1, under which it counts as the same everywhere."""
CHANNELS = {
    "roughness": lambda values: values[:, [channels.ROUGHNESS]],
    "metalness": lambda values: values[:, [channels.METALNESS]],
    "slope": lambda values: 0.5 + 0.5 * values[:, channels.SLOPE],
    "height": lambda values: 0.5 + values[:, [channels.HEIGHT]] / (2 * SHOWN_HEIGHT),
    "wetness": lambda values: values[:, [channels.WETNESS]],
}


def shown(station, width, height):
    """Pixels of a square in the middle of the plate, rows and columns, and the directions they look in."""
    right, up, forward = axes(station)[1:]
    half = np.tan(np.radians(field_of_view(station.lens)) / 2)
    columns, rows = (
        m.ravel()
        for m in np.meshgrid(np.arange(SIDE) + width // 2 - SIDE // 2, np.arange(SIDE) + height // 2 - SIDE // 2)
    )
    u = ((columns + 0.5) / width * 2 - 1) * half
    v = (1 - (rows + 0.5) / height * 2) * half * height / width
    return rows, columns, forward + u[:, None] * right + v[:, None] * up


def blocks(values):
    """Means of blocks of pixels, (blocks, C): the plate may use smaller pictures than what is baked."""
    count = values.shape[1]
    return values.reshape(SIDE // BLOCK, BLOCK, SIDE // BLOCK, BLOCK, count).mean(axis=(1, 3)).reshape(-1, count)


def under_decal(scene, decal, eye, direction, colour):
    """Colours with a decal over them; the card mixes what is on the screen already, so in sRGB."""
    mesh, material = decal_mesh(scene, decal), scene.material(decal.picture)
    face, bary = first_hits(mesh, eye, direction)
    met = face >= 0
    w = np.column_stack([1 - bary.sum(axis=1), bary])[met]
    corners = mesh.faces[face[met]]
    u, v = np.einsum("nk,nkc->nc", w, mesh.uv[corners]).T
    size = material.size
    at = [(1 - v) * size - 0.5, u * size - 0.5]
    read = lambda image: map_coordinates(image.astype(float) / 255, at, order=1, mode="nearest")  # noqa: E731
    alpha = read(material.alpha) * np.einsum("nk,nk->n", w, mesh.colour[corners][..., 3])
    picture = np.column_stack([read(material.colour[..., c]) for c in range(3)])
    out = colour.copy()
    out[met] += (picture - out[met]) * alpha[:, None]
    return out


class PlateAndBakedMaps(BrowserTest):
    def both(self, site, station, owner):
        """Hold the middle of the plate against Python, channel by channel.

        Returns what Python finds and the shares of the sides the ground is seen from.
        """
        self.open(site)
        drawn = self.seen("colour")
        rows, columns, direction = shown(station, drawn.shape[1], drawn.shape[0])
        scene = scene_of(site)
        mesh = scene.mesh(owner)
        face, bary = first_hits(mesh, axes(station)[0], direction)
        self.assertTrue((face >= 0).all())
        points = points_on(mesh, face, bary)
        w = np.column_stack([1 - bary.sum(axis=1), bary])
        uv = np.einsum("nk,nkc->nc", w, mesh.uv[mesh.faces[face]]).astype(np.float32)
        base_uv = uv if mesh.base_uv is None else np.einsum("nk,nkc->nc", w, mesh.base_uv[mesh.faces[face]])
        maps = owner_covers(scene, owner, 1024)
        covers = [
            (plan, np.float32(sample_map(maps[k], points.uv2))) for k, (_, plan) in enumerate(stack(scene, owner))
        ]
        sides = ground_triplanar(scene, points.positions[:, [0, 2]]) if owner == "ground" else None
        opened = exposure_at(scene, owner, points.uv2)
        values = blend_values(
            scene, owner, uv, base_uv.astype(np.float32), points.slots, covers, sides, exposure=opened
        )
        colour = linear_to_srgb(values[:, channels.COLOUR])
        for _, decal in stacked(scene):
            colour = under_decal(scene, decal, axes(station)[0], direction, colour)
        self.held("colour", colour, drawn[rows, columns] / 255)
        for name, of in CHANNELS.items():
            found = srgb_to_linear(np.float32(self.seen(name)[rows, columns] / 255))
            expected = np.clip(of(values), 0, 1)
            self.held(name, expected, found[:, : expected.shape[1]])
        return values, None if sides is None else sides[1]

    def seen(self, view):
        """The plate in a view."""
        radio = self.page.get_by_role("radio", name=view)
        if radio.count():
            radio.click()
        else:
            self.page.get_by_role("button", name="Channel").click()
            self.page.get_by_role("menuitem", name=view).click()
            self.page.get_by_role("menu").wait_for(state="hidden")
        self.settled()
        return self.plate()

    def held(self, name, expected, drawn):
        """Channel by channel: the same in the mean, about the same from block to block."""
        ours, theirs = blocks(expected), blocks(drawn)
        self.assertLess(np.abs(ours.mean(axis=0) - theirs.mean(axis=0)).max(), 2.5 / 255, name)
        self.assertLess(np.abs(ours - theirs).mean(), APART.get(name, 6 / 255), name)
        for channel in range(ours.shape[1]):
            # What is the same nearly everywhere differs by steps of a byte, and hangs together by chance.
            if name != "colour" and ours[:, channel].std() < LEVEL:
                continue
            alike = np.corrcoef(ours[:, channel], theirs[:, channel])[0, 1]
            # Fine relief cancels out over a block; what is left is mostly what smaller pictures have lost.
            self.assertGreater(alike, 0.75 if name == "slope" else 0.95, name)

    def test_moss_and_grime_on_a_wet_wall(self):
        station = StationPlan(name="close", position=(0.3, 0.8, 0.0), target=(0.3, 0.8, -2), lens=35, order=1)
        site = site_of(
            self.user,
            **{
                "wall": PiecePlan(name="garden wall", asset="wall", position=(0, 0, -2.5)),
                "station-1": station,
                "m": PatinaPlan(
                    name="moss",
                    # Enlarged: its shoots are finer than the pictures of patinas that the plate holds.
                    finish=Finish(material="moss", scale=2.5),
                    uses=[PatinaUse(surface="wall/stone"), PatinaUse(surface="wall/coping")],
                    rules=[NoiseRule(gate=Gate(rise_start=0.3, rise_end=0.5, fall_start=1, fall_end=1))],
                ),
                "grime": PatinaPlan(
                    name="grime",
                    amount=0.6,
                    finish=Finish(material="grime", stain=0.5, scale=2.0, fill=0.5),
                    uses=[PatinaUse(surface="wall/stone")],
                    order=1,
                ),
                "weather": WeatherPlan(wetness=0.9),
                "stain": DecalPlan(
                    name="stain",
                    picture=DECAL,
                    position=(0.3, 0.8, -2.2),
                    width=0.9,
                    height=0.9,
                    depth=0.8,
                    opacity=0.8,
                    receivers=["wall"],
                ),
            },
        )
        values, _ = self.both(site, station, "wall")
        wet = values[:, channels.WETNESS]
        self.assertTrue(wet.std() > 0.05 and wet.max() > 0.6, (wet.std(), wet.max()))

    def test_a_steep_bank_of_two_materials(self):
        bank = Terrace(start=(6, 0), end=(-6, 1.5), height=5.0, run=2.6)
        gravel = GroundLayer(
            key="gravel",
            material="gravel",
            rules=[HeightRule(gate=Gate(rise_start=2.0, rise_end=2.4, fall_start=99, fall_end=99))],
        )
        ground = GroundPlan(width=12, depth=12, cell=0.2, amount=0.0, forms=[bank], layers=[gravel])
        station = StationPlan(name="close", position=(0.2, 2.6, 4.5), target=(0.2, 2.4, 0), lens=35, order=1)
        site = site_of(self.user, ground=ground, **{"station-1": station})
        _, share = self.both(site, station, "ground")
        # The bank is steep enough to be seen from the side, and turned so that two sides count.
        self.assertGreater((share[:, 2] > 0.5).mean(), 0.3)

    def test_relief_with_a_graphics_card_is_where_the_line_of_sight_meets_it(self):
        station = StationPlan(name="low", position=(0.1, 0.7, 1.5), target=(0.1, 0.0, 0.3), lens=35, order=1)
        ground = GroundPlan(width=8, depth=8, cell=0.5, amount=0.0, material="gravel")
        site = site_of(self.user, ground=ground, **{"station-1": station})
        self.page.add_init_script("localStorage.setItem('cenote.card', 'yes')")
        self.open(site)
        drawn = self.seen("height")
        rows, columns, direction = shown(station, drawn.shape[1], drawn.shape[0])
        found = srgb_to_linear(np.float32(drawn[rows, columns, :1] / 255))
        material = scene_of(site).material("gravel")
        heights = lambda x, z: sampled(material, x, -z)  # noqa: E731
        eye = axes(station)[0]
        marched = first_under(eye, direction, heights, material.depth)
        flat = eye + direction * (-eye[1] / direction[:, 1])[:, None]
        expected = lambda at: np.clip(0.5 + heights(at[:, 0], at[:, 2])[:, None] / (2 * SHOWN_HEIGHT), 0, 1)  # noqa: E731
        alike = [np.corrcoef(blocks(expected(at))[:, 0], blocks(found)[:, 0])[0, 1] for at in (marched, flat)]
        self.assertGreater(alike[0], 0.85)
        self.assertGreater(alike[0], alike[1] + 0.1, "and not where it lies flat")


def sampled(material, u, v):
    """Metres of a material's relief at places in metres, bilinear."""
    size = material.size
    at = [(1 - v / material.tile) * size - 0.5, u / material.tile * size - 0.5]
    return (map_coordinates(material.height / 255.0, at, order=1, mode="grid-wrap") - 0.5) * material.depth


def first_under(eye, direction, heights, depth, steps=600):
    """Where lines of sight first meet a relief on level ground, (N, 3), by many small steps."""
    start, end = ((level - eye[1]) / direction[:, 1] for level in (depth / 2, -depth / 2))
    out = eye + direction * end[:, None]
    met = np.zeros(len(direction), bool)
    for t in np.linspace(0, 1, steps):
        at = eye + direction * (start + (end - start) * t)[:, None]
        under = ~met & (at[:, 1] <= heights(at[:, 0], at[:, 2]))
        out[under] = at[under]
        met |= under
    return out
