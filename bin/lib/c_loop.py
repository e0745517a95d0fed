"""The event loop of one slot in plain C, built here: the speed that sweeps are held against."""

import ctypes
import subprocess
import tempfile
import time
from pathlib import Path

import numpy as np

from engine.burst.plan import plan_of
from engine.tests.builders import scenario
from engine.uncertainty.draws import frame_sizes

SOURCE = Path(__file__).with_name("c_loop.c")
HOLD_S, SET_UPS, DRAWS, SPREAD = 10.0, 361, 200, 0.07
FIELDS = ("interval_ns", "encode_ns", "memory_bytes", "held_bytes", "file_bytes")


def ns_a_frame(rounds: int = 5) -> float:
    """Nanoseconds a frame on one core, at best: bursts like those of the sweeps, sizes varying."""
    with tempfile.TemporaryDirectory() as folder:
        built = Path(folder) / "c_loop.so"
        command = ["gcc", "-O3", "-shared", "-fPIC", "-o", str(built), str(SOURCE)]
        subprocess.run(command, check=True)  # noqa: S603 - our own source
        shoot_all = ctypes.CDLL(str(built)).shoot_all
    shoot_all.restype = ctypes.c_int64
    random, count = np.random.default_rng(1), SET_UPS * DRAWS
    burst = scenario(memory_mb=1250, held_mb=55, process_fps=30, hold_s=HOLD_S)
    [nominal] = plan_of(burst)
    plans = np.zeros((count, len(FIELDS) + 2), dtype=np.int64)
    plans[:, : len(FIELDS)] = [nominal[name] for name in FIELDS]
    speeds_mb_s = np.repeat(np.geomspace(20, 1500, SET_UPS), DRAWS)
    plans[:, -1] = nominal["file_bytes"] / speeds_mb_s * 1e3
    plans[:, 2] = np.rint(plans[:, 2] * np.exp(0.02 * random.standard_normal(count)))
    bursts = np.rint(1_024 * np.exp(SPREAD * random.standard_normal(count))).astype(np.int64)
    sizes = frame_sizes(DRAWS, burst.frames_due, SPREAD)
    outcomes = np.zeros(count, dtype=np.int64)
    best_ns = np.inf
    for _ in range(rounds):
        start = time.perf_counter()
        frames = shoot_all(
            _at(plans), ctypes.c_int64(count), ctypes.c_int64(int(HOLD_S * 1e9)), _at(bursts),
            ctypes.c_int64(DRAWS), _at(sizes), ctypes.c_int64(sizes.shape[1]), _at(outcomes),
        )  # fmt: skip
        best_ns = min(best_ns, 1e9 * (time.perf_counter() - start) / frames)
    return float(best_ns)


def _at(array: np.ndarray) -> ctypes.c_void_p:
    return ctypes.c_void_p(array.ctypes.data)
