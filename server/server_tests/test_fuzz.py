"""Requests made from the API's own schema, right and wrong ones: none may be answered with 5xx or with anything undocumented."""

from __future__ import annotations

import json
from collections import defaultdict
from urllib.parse import quote, urlencode

import schemathesis
import trimesh
from django.core.files.base import ContentFile
from django.db import transaction
from django.test import TestCase, override_settings
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis.errors import Unsatisfiable
from schemathesis import GenerationMode
from schemathesis.core import NotSet

from cenote.text import writable
from cenote_core.hashing import content_hash
from cenote_core.plan.kinds import KINDS
from kit.models import ImportedAsset, ImportedPicture
from served.api import api
from sites import computing
from work.models import Job

from .helpers import client_of, grass, moss, person, site_of, wall

EXAMPLES = 7
"""Requests an operation and way of making them."""
SEED = 20
_BOUNDED = settings(
    max_examples=EXAMPLES,
    deadline=None,
    database=None,
    phases=[Phase.generate],
    suppress_health_check=list(HealthCheck),
)
_SELDOM_RIGHT = {
    "/api/sites/{site_id}/weathering",
    "/api/sites/{site_id}/values",
    "/api/sites/{site_id}/histograms",
    "/api/sites/{site_id}/picture",
    "/api/accounts/sign-in",
    "/api/kit/imports",
    "/api/kit/pictures",
    "/api/work/{job_id}/go-on",
}
"""What asks for a password, for a file that is one, for samples that are kept, or for rules whose gates are in order."""
_NAMES = {
    "owner": "ground",
    "recipe": "meadow",
    "station": "station-1",
    "surfaces": ["ground/ground"],
    "point": [0.0, 0.0, 0.0],
}
"""Names of what is there, for what would otherwise ask for nothing."""
_ENDED = {"/api/accounts/sign-out"}
"""What would end the session all others need."""


class Fuzz(TestCase):
    """Everything within one transaction, so that no request finds what another has left."""

    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.site = site_of(cls.user, g=grass(), m=moss(), wall=wall())
        job = Job.objects.create(site=cls.site, user=cls.user, kind="proof", title="proof", state=Job.DONE)
        about = {"site": cls.site, "user": cls.user, "title": "crate", "filename": "crate.glb"}
        asset = ImportedAsset.objects.create(id="import-0", info={"scale": 1.0, "up": "y"}, **about)
        asset.original.save("crate", ContentFile(trimesh.creation.box().export(file_type="glb")))
        picture = ImportedPicture.objects.create(id="picture-0", width=2, height=2, **about)
        cls.there = {"site_id": cls.site.pk, "job_id": job.pk, "import_id": asset.pk, "picture_id": picture.pk}

    def setUp(self):
        self.client = client_of(self.user)
        self.client.raise_request_exception = False

    def send(self, case):
        """The answer to a generated request, most of them about what is there. What it has done is undone."""
        given = dict(case.path_parameters or {})
        # Three of four, by what was generated itself, so that the same are every time.
        if content_hash(str(case.path_parameters), str(case.body))[0] in "0123456789ab":
            given |= {name: str(there) for name, there in self.there.items() if name in given}
        path = case.operation.path
        for name, value in given.items():
            path = path.replace("{" + name + "}", quote(str(value), safe="", errors="replace"))
        query = dict(case.query or {})
        if "site" in query and case.operation.path.startswith("/api/kit"):
            query["site"] = str(self.site.pk)
        media, data = self.body(case)
        with transaction.atomic():
            query = "?" + urlencode(query, doseq=True, errors="replace") if query else ""
            answer = self.client.generic(case.method, path + query, data, content_type=media)
            transaction.set_rollback(True)
        # Revisions are counted anew after that.
        computing._read.clear()
        computing._sound._found.clear()
        return answer

    def body(self, case):
        """Its kind and its bytes."""
        if isinstance(case.body, NotSet):
            return "application/json", b""
        if not (case.media_type or "").startswith("multipart"):
            data = case.body if isinstance(case.body, bytes) else json.dumps(_named(case.body), default=str).encode()
            return "application/json", data
        fields = case.body if isinstance(case.body, dict) else {"file": case.body}
        return f"multipart/form-data; boundary={_BOUNDARY}", _form(fields)

    def check(self, case):
        answer = self.send(case)
        self.statuses[case.operation.path].add(answer.status_code)
        told = f"{case.method} {case.formatted_path} {case.query} {str(case.body)[:600]}"
        # Busy is an answer too; anything else past 500 is not.
        self.assertTrue(answer.status_code < 500 or answer.status_code == 503, f"{answer.status_code}: {told}")
        documented = {str(status) for status in case.operation.definition.raw["responses"]}
        self.assertIn(str(answer.status_code), documented | {"405"}, told)
        if answer.status_code >= 400:
            detail = json.loads(answer.content)["detail"]
            self.assertIsInstance(detail, str, told)
            self.assertTrue(detail, told)

    @override_settings(COMPUTING_SECONDS=4)
    def test_every_operation(self):
        schema = schemathesis.openapi.from_dict(json.loads(json.dumps(api.get_openapi_schema())))
        self.statuses = defaultdict(set)
        tried = 0
        for found in schema.get_all_operations():
            operation = found.ok()
            if operation.path in _ENDED:
                continue
            for mode in (GenerationMode.POSITIVE, GenerationMode.NEGATIVE):
                self.fuzz(operation, mode)
                tried += 1
        self.assertGreater(tried, 60)
        # Of what is generated some has to be right: else nothing past the first look at a request was tried.
        never = sorted(path for path, found in self.statuses.items() if not found & {200, 204, 409})
        self.assertLessEqual(set(never), _SELDOM_RIGHT, never)

    def fuzz(self, operation, mode):
        @seed(SEED)
        @_BOUNDED
        @given(case=operation.as_strategy(generation_mode=mode))
        def one(case):
            self.check(case)

        try:
            one()
        except Unsatisfiable:
            # Where nothing wrong can be made of an operation there is nothing to try.
            return


_BOUNDARY = "part-of-a-form"


def _named(body):
    """A body in which what is named is there, where it is named at all as it should be, and texts can be written."""
    if isinstance(body, dict):
        body = {
            k: _NAMES[k] if k in _NAMES and type(v) is type(_NAMES[k]) and v else _named(v) for k, v in body.items()
        }
        plan = body.get("plan")
        if isinstance(plan, dict) and "kind" not in plan:
            # The schema asks for no kind where it is known by default; a plan without one is of none.
            kinds = [name for name, model in KINDS.items() if set(plan) <= set(model.model_fields)]
            body["plan"] = plan | {"kind": kinds[0] if kinds else "piece"}
        return body
    if isinstance(body, str):
        return "".join(sign for sign in body if writable(sign))
    return [_named(v) for v in body] if isinstance(body, list) else body


def _form(fields):
    out = b""
    for name, value in fields.items():
        content = value if isinstance(value, bytes) else str(value).encode("utf-8", "replace")
        named = name.encode("utf-8", "replace").replace(b'"', b"").replace(b"\n", b"").replace(b"\r", b"")
        file = b'; filename="a.glb"' if name == "file" else b""
        out += (
            b"--"
            + _BOUNDARY.encode()
            + b'\r\nContent-Disposition: form-data; name="'
            + named
            + b'"'
            + file
            + b"\r\n\r\n"
            + content
            + b"\r\n"
        )
    return out + b"--" + _BOUNDARY.encode() + b"--\r\n"
