"""Kinds of job that do what no job should: run by a worker's process in tests."""

import os
import time

import numpy as np

_BLOCK = 32 * 1024 * 1024


def fine(job, report):
    report("working", 0.5)
    return {"pid": os.getpid()}


def hang(job, report):
    report("hanging", 0.1)
    while True:
        time.sleep(60)


def die(job, report):
    report("dying", 0.1)
    os._exit(3)


def eat(job, report):
    report("eating", 0.1)
    held = []
    while len(held) < 200:
        held.append(np.ones(_BLOCK // 8))
        time.sleep(0.05)
    return {}


KINDS = {"fine": fine, "hang": hang, "die": die, "eat": eat}
