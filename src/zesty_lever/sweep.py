"""Many poses at once: one set-up with arrays of settings, bodies or loads, in bounded memory.

The base of maps, searches and Monte-Carlo runs. Samples are worked out in chunks; only what is asked
for is kept.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, fields, replace

import numpy as np
from numpy.typing import NDArray

from zesty_lever.batch import Batch
from zesty_lever.exercises.rep import Rep
from zesty_lever.mechanics.contacts import OTHER_RULE, Contacts, solve_contacts
from zesty_lever.mechanics.inverse import (
    External,
    disc_forces,
    gravity_on,
    joint_moments,
    wrench_of,
)
from zesty_lever.mechanics.lines import line_forces
from zesty_lever.motion.pose import JOINTS
from zesty_lever.vectors import Array

CHUNK_POSES = 4096


@dataclass(frozen=True)
class Sweep:
    """Moments of many samples. Not feasible ones hold NaN: never to be shown.

    ``extension`` and ``abduction`` ``(joints, samples, frames)`` N m; ``compression`` and ``shear``
    ``(samples, frames)`` N; ``share`` of the first place; ``lumbar`` flexion and ``line`` (trunk
    lean), rad. ``held`` is ``extension`` with the contacts settled by the rule alone, where they were
    drawn from the whole pair.
    """

    feasible: NDArray[np.bool_]
    extension: Array
    abduction: Array
    compression: Array
    shear: Array
    share: Array
    lumbar: Array
    line: Array
    held: Array

    def peak(self, joint: str) -> Array:
        """Signed extension of largest size over the frames, ``(samples,)`` N m."""
        values = self.extension[JOINTS.index(joint)]
        at = np.argmax(np.abs(np.nan_to_num(values)), axis=-1)
        return np.take_along_axis(values, at[:, None], axis=-1)[:, 0]


def sweep(batch: Batch, progress: Array, rule: str, *, pair_share: Array | None = None) -> Sweep:
    """Statics of every sample at some moments of the rep (``progress`` ``(frames,)``, on the way down).

    ``rule`` settles the contacts; with ``pair_share`` ``(samples, 1)`` the pair is taken that far
    from *vertical* (0) to *least effort* (1) instead. Poses that cannot exist are not feasible.
    """
    parts = list(sweep_in_parts(batch, progress, rule, pair_share=pair_share))
    if len(parts) == 1:
        return parts[0]
    axis = {"extension": 1, "abduction": 1, "held": 1}
    return Sweep(
        **{
            f.name: np.concatenate([getattr(p, f.name) for p in parts], axis=axis.get(f.name, 0))
            for f in fields(Sweep)
        }
    )


def sweep_in_parts(
    batch: Batch, progress: Array, rule: str, *, pair_share: Array | None = None
) -> Iterator[Sweep]:
    """The same in parts of bounded size, for what would not fit into memory, or for progress."""
    samples = len(next(iter(batch.settings.values())))
    step = max(CHUNK_POSES // len(progress), 1)
    for start in range(0, samples, step):
        part = slice(start, min(start + step, samples))
        share = None if pair_share is None else pair_share[part]
        yield _sweep_part(batch.taken(part), progress, rule, share)


def _sweep_part(batch: Batch, progress: Array, rule: str, pair_share: Array | None) -> Sweep:
    aided, _ = batch.with_aid()
    rep = aided.rep(progress)
    with np.errstate(invalid="ignore"):
        loads = gravity_on(rep.pose)
        if aided.lines:
            loads = loads.joined(
                line_forces(aided.body, rep.pose, aided.lines, progress, 0.0 * progress)[1]
            )
        kept = solve_contacts(rep.pose, wrench_of(loads), loads, rep.support, rule)
        contacts = kept if pair_share is None else _drawn_pair(rep, loads, rule, kept, pair_share)
        moments = joint_moments(rep.pose, loads, contacts.external())
        held = moments if contacts is kept else joint_moments(rep.pose, loads, kept.external())
        disc = disc_forces(rep.pose, moments)
    failed = np.any([flags for _, _, flags in rep.failures], axis=0)
    upward = contacts.forces[1]
    if not rep.support.hooked:
        failed = failed | (upward < -1e-6).any(axis=(0, 2))
    failed = failed | np.isnan(moments.extension).any(axis=(0, 2))
    return Sweep(
        ~failed,
        moments.extension,
        moments.abduction,
        disc["compression_N"],
        disc["shear_N"],
        contacts.share,
        rep.pose.lumbar_flexion_rad,
        rep.pose.line_rad,
        held.extension,
    )


def _drawn_pair(
    rep: Rep, loads: External, rule: str, kept: Contacts, pair_share: Array
) -> Contacts:
    """Contacts that far between the two rules' ends; as they are where there is only one place."""
    if len(kept.names) == 1:
        return kept
    far = solve_contacts(rep.pose, wrench_of(loads), loads, rep.support, OTHER_RULE[rule])
    start, end = (kept, far) if rule == "vertical" else (far, kept)
    return replace(end, forces=start.forces + pair_share * (end.forces - start.forces))
