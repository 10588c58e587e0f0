"""Bounds on who asks for derived values: slots, giving up, waiting for others."""

import tempfile
import threading
import time
import unittest
from contextlib import contextmanager
from pathlib import Path

from cenote_core.graph.cancellation import asking
from cenote_core.graph.store import Cache


class Enough(Exception):
    pass


class Asker:
    """Counts who computes at once; gives up when told to."""

    def __init__(self, slots=None):
        self.slots, self.over, self.most, self.now = slots or threading.Semaphore(2), threading.Event(), 0, 0
        self.lock = threading.Lock()

    def check(self):
        if self.over.is_set():
            raise Enough

    @contextmanager
    def slot(self):
        with self.slots:
            with self.lock:
                self.now += 1
                self.most = max(self.most, self.now)
            try:
                yield
            finally:
                with self.lock:
                    self.now -= 1


def spread(jobs):
    """Run functions at once; what each returned or raised."""
    out = [None] * len(jobs)

    def one(k):
        try:
            out[k] = jobs[k]()
        except Exception as error:
            out[k] = error

    threads = [threading.Thread(target=one, args=(k,)) for k in range(len(jobs))]
    [t.start() for t in threads]
    [t.join(20) for t in threads]
    return out


class Asking(unittest.TestCase):
    def test_no_more_compute_at_once_than_there_are_slots_and_nested_values_need_none(self):
        cache, asker = Cache(), Asker()

        def ask(k):
            with asking(asker):
                return cache.get(f"outer {k}", lambda: cache.get(f"inner {k % 3}", lambda: time.sleep(0.02) or k % 3))

        self.assertEqual(spread([lambda k=k: ask(k) for k in range(12)]), [k % 3 for k in range(12)])
        self.assertEqual(asker.most, 2)

    def test_those_who_wait_with_a_slot_for_one_another_never_stand_still(self):
        # As many ask for the same value as there are slots and more, while its maker asks for further values.
        for _ in range(10):
            cache, asker = Cache(), Asker(threading.Semaphore(1))

            def ask(k, cache=cache, asker=asker):
                with asking(asker):
                    return cache.get("a" if k % 2 else "b", lambda: cache.get("shared", lambda: 7))

            self.assertEqual(spread([lambda k=k: ask(k) for k in range(6)]), [7] * 6)

    def test_who_gave_up_stops_at_the_next_value_and_frees_what_it_held(self):
        cache, asker = Cache(), Asker()

        def slow():
            asker.over.set()
            return cache.get("inner", lambda: 1)

        with asking(asker), self.assertRaises(Enough):
            cache.get("outer", slow)
        self.assertEqual(asker.now, 0)
        self.assertEqual(cache.get("outer", lambda: 5), 5)

    def test_who_waits_for_anothers_value_may_give_up_and_the_other_goes_on(self):
        cache, going, asker = Cache(), threading.Event(), Asker()
        made = threading.Thread(target=lambda: cache.get("v", lambda: going.wait(10) and 3))
        made.start()
        threading.Timer(0.3, asker.over.set).start()
        began = time.monotonic()
        with asking(asker), self.assertRaises(Enough):
            cache.get("v", lambda: 4)
        self.assertLess(time.monotonic() - began, 5)
        going.set()
        made.join()
        self.assertEqual(cache.get("v", lambda: 4), 3)

    def test_when_one_gives_up_waiting_the_value_is_still_made_once(self):
        cache, going, asker, begun = Cache(), threading.Event(), Asker(), threading.Event()
        made = []

        def make():
            made.append(len(made))
            begun.set()
            going.wait(10)
            return made[-1]

        maker = threading.Thread(target=lambda: cache.get("v", make))
        maker.start()
        begun.wait(10)
        asker.over.set()
        with asking(asker), self.assertRaises(Enough):
            cache.get("v", make)
        second = threading.Thread(target=lambda: cache.get("v", make))
        second.start()
        second.join(0.3)
        self.assertTrue(second.is_alive(), "it did not wait for the one who makes it")
        going.set()
        maker.join(10)
        second.join(10)
        self.assertEqual(made, [0])
        self.assertEqual(cache._making, {})

    def test_a_value_that_comes_in_twice_counts_once(self):
        cache = Cache(memory_bytes=10_000)
        for _ in range(3):
            cache._remember("v", b"x" * 1000)
        once = cache.used
        cache._remember("w", b"x" * 1000)
        self.assertAlmostEqual(cache.used, 2 * once, delta=64)
        cache.forget()
        self.assertEqual(cache.used, 0)

    def test_what_is_there_is_had_without_a_slot(self):
        with tempfile.TemporaryDirectory() as folder:
            Cache(Path(folder)).get("kept", lambda: [1, 2], on_disk=True)
            cache, asker = Cache(Path(folder)), Asker(threading.Semaphore(0))
            with asking(asker):
                self.assertEqual(cache.get("kept", lambda: [3], on_disk=True), [1, 2])
                self.assertEqual(cache.get("kept", lambda: [3]), [1, 2])
