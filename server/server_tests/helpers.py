"""People, sites and a client that signs its writes."""

from __future__ import annotations

import json

import numpy as np
from django.contrib.auth import get_user_model
from django.test import Client

from cenote_core.base.packet import unpack
from cenote_core.drifts.instances import Instances, joined
from cenote_core.drifts.plots import unpacked
from cenote_core.plan import AssetShare, DriftPlan, PatinaPlan, PatinaUse, PiecePlan
from cenote_core.plan.stored import upgraded
from sites.models import Item, Member, Site
from sites.starting import starting_items


def person(name: str = "ada", password: str = "a long password"):
    user, made = get_user_model().objects.get_or_create(username=name)
    if made:
        user.set_password(password)
        user.save()
    return user


def client_of(user) -> Client:
    client = Client()
    client.force_login(user)
    return client


def site_of(user, role: str = Member.OWNER, **items) -> Site:
    """A site with ground, light, a station and what is given."""
    site = Site.objects.create(name="bench test")
    Member.objects.create(site=site, user=user, role=role)
    # Without numbers of their schema, as the first sites were stored.
    plans = {key: upgraded(plan) for key, plan in starting_items()}
    plans["ground"] = {**plans["ground"], "width": 10, "depth": 10, "cell": 0.5}
    for key, plan in {**plans, **items}.items():
        data = plan if isinstance(plan, dict) else plan.model_dump(mode="json")
        Item.objects.create(site=site, key=key, kind=data["kind"], plan=data)
    return site


def grass(**more) -> DriftPlan:
    plan = {
        "name": "grass",
        "assets": [AssetShare(asset="grass_low")],
        "surfaces": ["ground/ground"],
        "density": 3,
        "spacing": 0.3,
    }
    return DriftPlan(**{**plan, **more})


def moss() -> PatinaPlan:
    return PatinaPlan(name="moss", uses=[PatinaUse(surface="wall/stone")])


def wall() -> PiecePlan:
    return PiecePlan(name="wall", asset="wall")


def post(client: Client, path: str, body) -> tuple[int, dict]:
    text = body if isinstance(body, str) else json.dumps(body)
    answer = client.post(path, text, content_type="application/json")
    return answer.status_code, json.loads(answer.content or b"{}")


def change(client: Client, site: Site, *edits, label: str = "change") -> tuple[int, dict]:
    body = {"label": label, "edits": [{"key": k, "revision": r, "plan": p} for k, r, p in edits]}
    return post(client, f"/api/sites/{site.pk}/changes", body)


def instances_in(content: bytes) -> Instances:
    """What stands of a drift, of which everything came along."""
    arrays, info = unpack(content)
    found = joined([unpacked(arrays[entry["cell"]].tobytes()) for entry in info["plots"]])
    assert len(found) == info["count"]
    return found


def first_hits(mesh, eye, directions):
    """Nearest face and weights of its second and third corner for each ray (Möller and Trumbore 1997), brute force."""
    nearest = np.full(len(directions), np.inf)
    face, bary = np.full(len(directions), -1), np.zeros((len(directions), 2))
    corners = mesh.positions[mesh.faces].astype(float)
    for number, (a, b, c) in enumerate(corners):
        p = np.cross(directions, c - a)
        det = p @ (b - a)
        safe = np.where(np.abs(det) < 1e-12, 1.0, det)
        u = (p @ (eye - a)) / safe
        q = np.cross(eye - a, b - a)
        v, t = (directions @ q) / safe, (q @ (c - a)) / safe
        hit = (np.abs(det) >= 1e-12) & (u >= 0) & (v >= 0) & (u + v <= 1) & (t > 0) & (t < nearest)
        nearest[hit], face[hit] = t[hit], number
        bary[hit] = np.column_stack([u, v])[hit]
    return face, bary
