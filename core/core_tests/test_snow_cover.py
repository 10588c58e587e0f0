"""Snow that lies as a body: how much of it, where it stops, how it shifts and slides, and the mesh it is drawn by."""

import unittest

import numpy as np

from cenote_core.columns.grid import PIECE_NODES, STEPS, columns_of
from cenote_core.plan import PiecePlan, TouchPlan, WeatherPlan
from cenote_core.snow import prints
from cenote_core.snow.cover import cover_ref, snow_cover
from cenote_core.snow.fall import reach, ways, wind_of
from cenote_core.snow.landing import landed, run_off
from cenote_core.snow.shift import REPOSE, settle, slide
from cenote_core.snow.snow_depth import lying, mass

from .helpers import scene_of, sheet, small_site

STILL = {"wind": 0.0, "gusts": 0.0}


def snowy(snow=10.0, pieces=(), weather=STILL, **ground):
    site = small_site(**ground)
    if pieces:
        site.pieces.clear()
    for key, plan in pieces:
        site.put(key, plan)
    site.weather = WeatherPlan(snow=snow, **weather)
    return scene_of(site)


def piece(asset, position=(0, 0, 0), **more):
    return (asset, PiecePlan(name=asset, asset=asset, position=position, foot_width=0.0, **more))


def sheet_joints(rows, columns):
    joined = np.ones((rows, columns, 4), bool)
    joined[:, -1, 0] = joined[-1, :, 1] = joined[:, 0, 2] = joined[0, :, 3] = False
    return joined


class Huge(unittest.TestCase):
    def test_columns_of_a_piece_are_bounded_whatever_its_size(self):
        """A wrong unit is enough to make a piece a thousand times as large; its snow takes no more memory for that."""
        for size in (1, 10, 1000):
            scene = snowy(pieces=[piece("platform", size=size)])
            columns, mesh = columns_of(scene, "platform"), scene.mesh("platform")
            rows, across = columns.height.shape
            self.assertLess(rows * across, 1.1 * PIECE_NODES)
            # And all of it has columns.
            low, high = mesh.bounds()
            self.assertGreater(min(rows, across) * columns.cell, (high - low)[[0, 2]].min())
            self.assertGreater(max(rows, across) * columns.cell, (high - low)[[0, 2]].max())


class Falling(unittest.TestCase):
    def test_open_flat_ground_has_what_is_asked_within_two_per_cent(self):
        scene = snowy(20.0)
        found = lying(scene, "ground", 0.2, wind_of(scene), 0.0)
        columns = columns_of(scene, "ground")
        x, _, z = columns.places().transpose(2, 0, 1)
        open_ = (np.abs(z + 2) > 3.0) & (np.abs(x) < 5.5) & (np.abs(z) < 5.5)
        self.assertGreater(open_.sum(), 1000)
        self.assertAlmostEqual(found.depth[open_].mean(), 0.2, delta=0.004)
        self.assertAlmostEqual(mass(scene, "ground", 0.2, wind_of(scene))[open_].mean(), 0.2, delta=0.001)

    def test_none_under_a_roof_and_none_inside_what_stands_in_it(self):
        scene = snowy(20.0, [piece("wall", (0, 1.0, 0), size=3.0), piece("boulder", (3.5, 0, 3.5))])
        wind = wind_of(scene)
        found = reach(scene, "ground", wind)
        x, _, z = columns_of(scene, "ground").places().transpose(2, 0, 1)
        under, rock = (np.abs(x) < 5) & (np.abs(z) < 0.2), (np.abs(x - 3.5) < 0.15) & (np.abs(z - 3.5) < 0.15)
        self.assertEqual(found[under].max(), 0.0)
        self.assertLessEqual(found[rock].max(), 0.0)
        lies = mass(scene, "ground", 0.2, wind)
        self.assertEqual(lies[rock].max(), 0.0)

    def test_wind_drives_it_in_from_its_own_side(self):
        slanted, straight = ways(90.0, 6.0, 0.3).mean(axis=0), ways(90.0, 0.0, 0.0).mean(axis=0)
        self.assertGreater(slanted[0], 0.5)
        self.assertLess(abs(straight[0]), 0.02)
        roof = [piece("wall")]
        scenes = [snowy(10.0, roof, {"wind": 6.0, "gusts": 0.2, "wind_from": bearing}) for bearing in (0.0, 180.0)]
        north, south = (reach(s, "ground", wind_of(s)) for s in scenes)
        x, _, z = columns_of(scenes[0], "ground").places().transpose(2, 0, 1)
        before, behind = ((np.abs(x) < 3) & (np.abs(z - at) < 0.3) for at in (-0.8, 0.8))
        # Snow from the north lies north of the wall and not behind it.
        self.assertGreater(north[before].mean(), north[behind].mean() + 0.2)
        self.assertGreater(south[behind].mean(), south[before].mean() + 0.2)

    def test_drifting_moves_it_into_the_lee_and_keeps_its_mass(self):
        weather = {"wind": 10.0, "gusts": 0.3, "wind_from": 0.0}
        scene = snowy(20.0, [piece("wall")], weather)
        wind = wind_of(scene)
        lies = mass(scene, "ground", 0.2, wind)
        fell = run_off(scene, "ground", 0.2, wind).stays + landed(scene, "ground", 0.2, wind)
        self.assertAlmostEqual(lies.sum() / fell.sum(), 1.0, places=6)
        x, _, z = columns_of(scene, "ground").places().transpose(2, 0, 1)
        lee, windward = ((np.abs(x) < 3) & (np.abs(z - at) < 0.4) for at in (3.0, -4.0))
        self.assertGreater(lies[lee].mean(), 1.15 * lies[windward].mean())


class Shifting(unittest.TestCase):
    def test_a_heap_comes_to_rest_at_its_angle_and_keeps_its_mass(self):
        depth = np.zeros((61, 61))
        depth[30, 30] = 40.0
        cell = 0.1
        found = settle(np.zeros_like(depth), depth, sheet_joints(61, 61), cell, REPOSE)
        self.assertAlmostEqual(found.sum(), depth.sum(), places=9)
        steepest = max(np.abs(np.diff(found, axis=k)).max() for k in (0, 1)) / cell
        self.assertAlmostEqual(steepest, REPOSE, delta=0.02)

    def test_what_is_flat_enough_does_not_move(self):
        slope = np.linspace(0, 2, 40)[None] * np.ones((30, 1))
        depth = np.full(slope.shape, 0.2)
        np.testing.assert_array_equal(settle(slope, depth, sheet_joints(30, 40), 0.1, REPOSE), depth)

    def test_what_slides_is_found_again_below(self):
        base = np.linspace(2, 0, 20)[None] * np.ones((8, 1))
        order = np.argsort(-base, axis=None, kind="stable")
        going, holds = np.full(base.shape, 0.1), np.zeros(base.shape)
        holds[:, 12:15] = 0.99
        rest, falls, side = slide(base, sheet_joints(8, 20), order, going, holds)
        self.assertAlmostEqual(rest.sum() + falls.sum(), going.sum(), places=9)
        self.assertEqual(rest[:, :12].max(), 0.0)
        self.assertGreater(rest[:, 12:15].min(), 0.1)
        # At the foot it falls over the rim of the grid.
        self.assertTrue((side[1:-1, -1] == STEPS.index((0, 1))).all() and falls[1:-1, -1].min() > 0)

    def test_a_steep_smooth_roof_lets_go_and_the_ground_below_gets_it(self):
        steep = snowy(
            20.0, [("roof", PiecePlan(name="roof", asset="wall", position=(0, 3, 0), tilt=30.0, foot_width=0.0))]
        )
        wind = wind_of(steep)
        columns, off = columns_of(steep, "roof"), run_off(steep, "roof", 0.2, wind)
        fell = (np.maximum(reach(steep, "roof", wind), 0) * 0.2).sum() * columns.cell**2
        self.assertAlmostEqual(off.stays.sum() * columns.cell**2 + off.volume.sum(), fell, places=6)
        self.assertGreater(off.volume.sum(), 0.3 * fell)
        ground = columns_of(steep, "ground")
        found = sum(landed(steep, o, 0.2, wind).sum() * c.cell**2 for o, c in (("ground", ground), ("roof", columns)))
        self.assertAlmostEqual(found, off.volume.sum(), places=6)
        self.assertGreater(landed(steep, "ground", 0.2, wind).sum(), 0)


class Cover(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.scene = snowy(10.0)
        cls.wall = snow_cover(cls.scene, "wall")

    def test_it_lies_on_top_of_a_wall_with_a_round_rim_that_bulges_a_little(self):
        low, high = self.scene.mesh("wall").bounds()
        at = self.wall.mesh.positions
        self.assertAlmostEqual(at[:, 1].max(), high[1] + 0.1, delta=0.02)
        beyond = np.maximum(low - at, at - high)[:, [0, 2]].max()
        self.assertTrue(0.003 < beyond < 0.03, beyond)
        # Over the middle it is full, near the edge lower.
        middle = np.abs(at[:, 2] - (low[2] + high[2]) / 2) < 0.05
        edge = np.abs(np.abs(at[:, 2] - (low[2] + high[2]) / 2) - (high[2] - low[2]) / 2) < 0.01
        top = at[:, 1] > high[1] + 0.02
        self.assertGreater(at[middle & top][:, 1].mean(), at[edge & top][:, 1].mean() + 0.01)

    def test_its_faces_look_outward_and_hang_together(self):
        mesh = self.wall.mesh
        self.assertGreater(mesh.face_normals()[:, 1].mean(), 0.3)
        # Seen from above it is as large as what carries it.
        corners = mesh.positions[mesh.faces].astype(np.float64)
        area = (np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])[:, 1] / 2).sum()
        carried = (
            lying(self.scene, "wall", 0.1, wind_of(self.scene), 0.0).lies.sum()
            * columns_of(self.scene, "wall").cell ** 2
        )
        self.assertAlmostEqual(area, carried, delta=0.06 * area)

    def test_each_vertex_knows_how_far_it_stands_over_what_it_lies_on(self):
        lift = self.wall.lift
        self.assertEqual(len(lift), len(self.wall.mesh.positions))
        self.assertTrue(lift.min() >= 0 and 0.08 < lift.max() < 0.14)

    def test_more_snow_never_lies_lower_and_none_makes_none(self):
        depths = [lying(self.scene, "wall", d, wind_of(self.scene), 0.0).depth.mean() for d in (0.02, 0.05, 0.1, 0.3)]
        self.assertTrue((np.diff(depths) > 0).all())
        self.assertIsNone(cover_ref(snowy(0.0), "wall"))

    def test_the_same_twice_and_the_same_whatever_else_is_in_the_weather(self):
        other = snowy(10.0, weather={**STILL, "season": 2.0, "wetness": 0.5, "moment": 3.0})
        self.assertEqual(cover_ref(self.scene, "wall").key, cover_ref(other, "wall").key)
        self.assertNotEqual(cover_ref(self.scene, "wall").key, cover_ref(snowy(11.0), "wall").key)

    def test_narrow_rails_hold_less_than_broad_slabs(self):
        scene = snowy(30.0, [piece("seat")])
        found = lying(scene, "seat", 0.3, wind_of(scene), 0.0)
        self.assertLess(np.nanmax(found.top[found.lies]), 0.45)
        self.assertGreater(np.nanmax(found.top[found.lies]), 0.05)


class ByHand(unittest.TestCase):
    def test_a_swept_way_is_bare_a_trodden_one_lower_and_all_else_as_it_was(self):
        scenes = []
        for action in (None, "less", "erase"):
            site = small_site()
            site.pieces.clear()
            site.weather = WeatherPlan(snow=10.0, **STILL)
            if action:
                path = [(-3.0, 0.0, 0.0), (3.0, 0.0, 0.0)]
                site.put(
                    "t", TouchPlan(target="weather", action=action, points=path, radius=0.5, strength=0.6, falloff=0.2)
                )
            scenes.append(scene_of(site))
        untouched, trodden, swept = (lying(s, "ground", 0.1, wind_of(s), 0.0).depth for s in scenes)
        x, _, z = columns_of(scenes[0], "ground").places().transpose(2, 0, 1)
        way, away = (np.abs(x) < 2.5) & (np.abs(z) < 0.3), np.abs(z) > 0.8
        np.testing.assert_array_equal(trodden[away], untouched[away])
        np.testing.assert_allclose(trodden[way], 0.4 * untouched[way], rtol=1e-4)
        self.assertEqual(swept[way].max(), 0.0)


class Melting(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.scene = snowy(10.0, [piece("wall")])

    def left(self, melted, owner="ground"):
        found = lying(self.scene, owner, 0.1, wind_of(self.scene), melted)
        return found.depth * found.lies

    def test_the_sunny_side_goes_before_the_shade_behind_a_wall(self):
        x, _, z = columns_of(self.scene, "ground").places().transpose(2, 0, 1)
        sunny, shady = ((np.abs(x) < 3) & (np.abs(z - at) < 0.5) for at in (2.0, -1.4))
        depth = self.left(0.07)
        self.assertGreater(depth[shady].mean(), depth[sunny].mean() + 0.02)

    def test_more_warmth_never_leaves_more_and_enough_leaves_none(self):
        sums = [self.left(m).sum() for m in (0.0, 0.03, 0.06, 0.09)]
        self.assertTrue((np.diff(sums) < 0).all())
        self.assertEqual(self.left(0.6).sum(), 0.0)

    def test_twigs_and_dustings_are_bare_long_before_the_ground(self):
        half = WeatherPlan(snow=10.0, melted=5.0)
        self.assertEqual(half.fallen.snow, 0.0)
        self.assertAlmostEqual(WeatherPlan(snow=10.0).fallen.snow, 0.1)

    def test_what_is_kept_free_of_snow_carries_none(self):
        scene = snowy(10.0, [piece("wall", takes_snow=False)])
        self.assertIsNone(snow_cover(scene, "wall"))
        self.assertIsNotNone(snow_cover(scene, "ground"))


if __name__ == "__main__":
    unittest.main()


class Footprints(unittest.TestCase):
    way = np.array([[0.0, 0.0], [3.0, 0.0], [3.0, 2.0]])

    def test_one_a_step_left_and_right_with_the_toes_ahead(self):
        found = prints.along(self.way)
        self.assertEqual(len(found), int(5.0 / prints.STEP) + 1)
        first = found.at[:, 0] < 2.5
        side = np.sign(found.at[first, 1])
        self.assertTrue((side[1:] == -side[:-1]).all())
        turned = np.degrees(np.arctan2(found.ahead[first, 1], found.ahead[first, 0]))
        self.assertLess(np.abs(turned).max(), 15)

    def test_edges_are_halved_without_gaps_and_the_sheet_keeps_its_area(self):
        mesh = sheet(8, 2.0)
        positions, faces = prints.refined(mesh.positions.astype(float), mesh.faces, prints.along(self.way))
        a, b, c = positions[faces].transpose(1, 0, 2)
        area = np.linalg.norm(np.cross(b - a, c - a), axis=1)
        self.assertAlmostEqual(area.sum() / 2, 4.0, places=6)
        self.assertGreater(area.min(), 0)
        edges = np.sort(faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
        _, times = np.unique(edges, axis=0, return_counts=True)
        rim = 4 * 8
        self.assertTrue((times <= 2).all())
        # A gap would be more edges with a face on one side only than the rim's own halves.
        alone = np.unique(edges, axis=0)[times == 1]
        low, high = mesh.bounds()
        off = np.minimum(positions[alone] - low, high - positions[alone])[..., [0, 2]].min(axis=2)
        on_rim = (off < 1e-6).all(axis=1)
        self.assertTrue(on_rim.all())
        self.assertGreaterEqual(len(alone), rim)

    def test_a_foot_sinks_in_by_a_share_of_the_depth_and_pushes_up_a_rim(self):
        one = prints.Prints(np.zeros((1, 2)), np.array([[1.0, 0.0]]))
        at = np.array([[0.06, 0.0], [0.0, 0.06], [0.06, 0.075], [0.5, 0.5]])
        for depth in (0.05, 0.2):
            down = prints.pressed(one, at, np.full(4, depth))
            self.assertAlmostEqual(down[0], prints.PRESSED * depth, delta=0.004)
            self.assertLess(down[1:3].max(), 0)
            self.assertEqual(down[3], 0)

    def test_a_walk_over_the_ground_is_seen_in_its_cover_and_undone_without_a_trace(self):
        scene = snowy(10.0)
        before = snow_cover(scene, "ground").mesh
        walk = TouchPlan(name="walk", target="weather", action="more", points=[(-3, 0, 2), (3, 0, 2)], radius=0.2)
        scene.site.put("walk", walk)
        walked = scene_of(scene.site)
        after = snow_cover(walked, "ground")
        self.assertGreater(len(after.mesh.faces), len(before.faces) + 2000)
        on_way = np.abs(after.mesh.positions[:, 2] - 2) < 0.15
        self.assertGreater(np.quantile(after.lift[on_way], 0.95) - np.quantile(after.lift[on_way], 0.1), 0.04)
        again = snow_cover(snowy(10.0), "ground").mesh
        np.testing.assert_array_equal(again.positions, before.positions)
