"""The athlete as a Pinocchio model, built from the raw tables and from angles.

Nothing here uses the product's positions: the leg is found by solving its defining equations with
scipy, the trunk stays in its three published parts, the arms come from a rotation about the line
to the grip. Only angles, the pressure fraction and the contact forces are taken from a result.
"""

import csv
import tomllib
from pathlib import Path

import numpy as np
import pinocchio as pin
from engine_limbs import lean, limbs

from zesty_lever.exercises.catalogue import catalogue

TABLES = Path(__file__).parents[2] / "src" / "zesty_lever" / "data"


def table(name):
    lines = [
        x
        for x in (TABLES / "tables" / f"{name}.csv").read_text().splitlines()
        if not x.startswith("#")
    ]
    return list(csv.DictReader(lines))


MARKS = tomllib.loads((TABLES / "tables" / "landmarks.toml").read_text())


def raw_athlete(athlete):
    """Lengths (m) and raw segment rows of one athlete."""
    lengths = {
        r["name"]: float(r["fraction"]) * athlete.height_m
        for r in table("lengths_drillis_contini_1966")
    }
    lengths["hip_width"] = MARKS["hip_width"] * athlete.height_m
    lengths |= athlete.lengths_m
    rows = {
        r["segment"]: {k: float(v) for k, v in r.items() if k not in ("sex", "segment", "ends")}
        for r in table("segments_de_leva_1996")
        if r["sex"] == athlete.sex
    }
    marks = next(r for r in table("trunk_landmarks_de_leva_1996") if r["sex"] == athlete.sex)
    paired = ("thigh", "shank", "foot", "upper_arm", "forearm", "hand")
    total = sum(r["mass_percent"] * (2 if n in paired else 1) for n, r in rows.items())
    mass = {n: r["mass_percent"] / total * athlete.mass_kg for n, r in rows.items()}
    centre = {n: r["centre_percent"] / 100 for n, r in rows.items()}
    return lengths, rows, mass, centre, {k: float(v) for k, v in marks.items() if k != "sex"}


def across(row, length):
    """Radius of gyration (m) about the sideways axis of a segment of some length."""
    return row["r_transverse"] / 100 * length


def along(direction):
    """A rotation that takes straight down to ``direction``."""
    return pin.Quaternion.FromTwoVectors(np.array([0.0, -1.0, 0.0]), direction).toRotationMatrix()


class Chain:
    """A pelvis-rooted tree of spherical joints with one configuration."""

    def __init__(self):
        self.model = pin.Model()
        self.model.gravity.linear = np.array([0.0, -9.80665, 0.0])
        self.turned, self.q, self.pushes = {0: np.eye(3)}, [], []

    def joint(self, parent, kind, name, place, rotation):
        """Add a joint at ``place`` in the parent's frame whose child has a world rotation."""
        index = self.model.addJoint(
            parent, kind, pin.SE3(np.eye(3), np.asarray(place, float)), name
        )
        local = self.turned[parent].T @ rotation
        self.turned[index] = rotation
        self.q.append(pin.Quaternion(local).coeffs())
        return index

    def mass(self, joint, mass, place, radius=0.0, axis=(0.0, 1.0, 0.0)):
        """Put a slender body in a joint's frame: radius of gyration (m) across its long axis."""
        u = np.asarray(axis, float) / np.linalg.norm(axis)
        turning = mass * radius**2 * (np.eye(3) - np.outer(u, u))
        inertia = pin.Inertia(mass, np.asarray(place, float), turning)
        self.model.appendBodyToJoint(joint, inertia, pin.SE3.Identity())

    def push(self, joint, force, point):
        """Apply an outside force (N, world) at a world point (m)."""
        self.pushes.append((joint, np.asarray(force, float), np.asarray(point, float)))

    def torques(self, root_place):
        """Moments (N m, world axes) that each joint's parent exerts on its child, and the root's."""
        data = self.model.createData()
        q = np.concatenate([root_place, *self.q])
        pin.forwardKinematics(self.model, data, q)
        outside = pin.StdVec_Force()
        for _ in range(self.model.njoints):
            outside.append(pin.Force.Zero())
        for joint, force, point in self.pushes:
            world = pin.Force(force, np.cross(point, force))
            outside[joint] += data.oMi[joint].actInv(world)
        tau = pin.rnea(
            self.model, data, q, np.zeros(self.model.nv), np.zeros(self.model.nv), outside
        )
        moments = {}
        for index in range(2, self.model.njoints):
            first = self.model.idx_vs[index]
            moments[self.model.names[index]] = self.turned[index] @ tau[first : first + 3]
        return moments, tau[:6]


JOINT_OF = {"thigh": "hip", "shank": "knee", "foot": "ankle"}


def joint_of(segment):
    """The joint whose child a segment moves with."""
    kind, _, side = segment.rpartition("_")
    if kind in JOINT_OF:
        return f"{JOINT_OF[kind]}_{side}"
    return "root" if segment == "pelvis" else "lumbosacral"


def build_chain(result, frame):
    """The athlete of a result at one frame as a `Chain`; returns it with the root's place.

    Contacts, bands, cables and pushes are outside forces on the segment that each acts on.
    """
    chain, place = bare_chain(result, frame)
    solved = result.solved
    for acting in (solved.contacts, solved.lines):
        forces, points = acting.forces[:, :, frame].T, acting.points[:, :, frame].T
        for segment, force, point in zip(acting.segments, forces, points, strict=True):
            chain.push(chain.model.getJointId(joint_of(segment)), force, point)
    if solved.support.kind == "foot":
        # A twist is a pair of forces a metre apart.
        half = 0.5 * float(solved.ground.free_moment_Nm[frame])
        foot, at = chain.model.getJointId("ankle_right"), solved.ground.points[:, 0, frame]
        for way in (1.0, -1.0):
            chain.push(foot, [0.0, 0.0, way * half], at - [way, 0.0, 0.0])
    return chain, place


def bare_chain(result, frame):
    raw = raw_athlete(result.case.athlete)
    lengths, rows, mass, centre, marks = raw
    chain = Chain()
    pelvis_turn = lean(result.shown.pose.pelvis_rad[frame])
    pelvis = chain.joint(0, pin.JointModelFreeFlyer(), "root", np.zeros(3), pelvis_turn)
    line, part = lengths["hip_to_shoulder"], marks["hips_to_shoulders_mm"]
    lower = rows["lower_trunk"]["length_mm"]
    chain.mass(
        pelvis,
        mass["lower_trunk"],
        [0, (1 - centre["lower_trunk"]) * lower / part * line, 0],
        across(rows["lower_trunk"], lower / part * line),
    )
    legs = limbs(result, frame, lengths)
    for side, z in (("right", 1.0), ("left", -1.0)):
        points = {name: at * [1.0, 1.0, z] for name, at in legs[side].items()}
        add_leg(chain, pelvis, side, points, 0.5 * z * lengths["hip_width"], raw)
    add_upper(chain, pelvis, result, frame, raw)
    mid = 0.5 * (legs["right"]["hip"] + legs["left"]["hip"] * [1.0, 1.0, -1.0])
    return chain, mid


def add_leg(chain, pelvis, side, points, hip_z, raw):
    lengths, rows, mass, centre, _ = raw
    thigh = chain.joint(
        pelvis,
        pin.JointModelSpherical(),
        f"hip_{side}",
        [0, 0, hip_z],
        along(points["knee"] - points["hip"]),
    )
    chain.mass(
        thigh,
        mass["thigh"],
        [0, -centre["thigh"] * lengths["thigh"], 0],
        across(rows["thigh"], lengths["thigh"]),
    )
    shank = chain.joint(
        thigh,
        pin.JointModelSpherical(),
        f"knee_{side}",
        [0, -lengths["thigh"], 0],
        along(points["ankle"] - points["knee"]),
    )
    chain.mass(
        shank,
        mass["shank"],
        [0, -centre["shank"] * lengths["shank"], 0],
        across(rows["shank"], lengths["shank"]),
    )
    foot = chain.joint(
        shank, pin.JointModelSpherical(), f"ankle_{side}", [0, -lengths["shank"], 0], np.eye(3)
    )
    heel, toe = points["heel"] - points["ankle"], points["toe"] - points["ankle"]
    middle = heel + centre["foot"] * (toe - heel) + [0, 0.5 * lengths["ankle_height"], 0]
    chain.mass(foot, mass["foot"], middle, across(rows["foot"], lengths["foot"]), toe - heel)


def add_upper(chain, pelvis, result, frame, raw):
    lengths, rows, mass, centre, marks = raw
    height, line = result.case.athlete.height_m, lengths["hip_to_shoulder"]
    up, behind = 0.195 * line, 0.025 * height / 1.75
    turned = lean(result.shown.pose.trunk_rad[frame])
    trunk = chain.joint(pelvis, pin.JointModelSpherical(), "lumbosacral", [-behind, up, 0], turned)
    part = marks["hips_to_shoulders_mm"]
    low, mid = rows["lower_trunk"]["length_mm"], rows["middle_trunk"]["length_mm"]
    top = rows["upper_trunk"]["length_mm"]
    for name, at, own in (
        ("middle_trunk", low + (1 - centre["middle_trunk"]) * mid, mid),
        ("upper_trunk", low + mid + (1 - centre["upper_trunk"]) * top, top),
    ):
        chain.mass(
            trunk,
            mass[name],
            [behind, at / part * line - up, 0],
            across(rows[name], own / part * line),
        )
    neck = marks["hips_to_cervicale_mm"] - part
    head = rows["head"]["length_mm"]
    head_at = (neck + (1 - centre["head"]) * head) / (neck + head) * lengths["head_and_neck"]
    shoulder = np.array([behind, line - up, 0.0])
    nod = lean(max(result.shown.pose.trunk_rad[frame], -np.pi / 2))
    # The head's table length ends at the neck's foot; head and neck together are the segment here.
    whole = (neck + head) / lengths["head_and_neck"]
    chain.mass(
        trunk,
        mass["head"],
        shoulder + turned.T @ nod @ np.array([0, head_at, 0]),
        across(rows["head"], head / whole),
        turned.T @ nod @ np.array([0, 1.0, 0]),
    )
    for z in (1.0, -1.0):
        add_arm(chain, trunk, turned, shoulder, z, result, raw, frame)
    entry = variation_file(result.case)
    load = entry.get("load")
    if load and not load["carried_by"]:
        return trunk
    if load and load["carried_by"] == ["pelvis"]:
        chain.mass(
            pelvis, result.case.load_kg, np.array([load["forward"], load["above"], 0.0]) * height
        )
    elif load and "forward" in load:
        at = shoulder + np.array([load["forward"], load["above"], 0.0]) * height
        chain.mass(trunk, result.case.load_kg, at)
    return trunk


def variation_file(case):
    found = list((TABLES / "catalogue").glob(f"*/{case.variation}.toml"))
    return tomllib.loads(found[0].read_text())


def hands_ahead(result, frame, height):
    """How far hanging hands are ahead of the shoulders at a frame, m (the data file's rule)."""
    settings, entry = result.case.settings, catalogue()[result.case.variation]
    if entry.from_floor:
        deep = -settings.get("shoulder_lead_m", 0.0)
    elif "hands_ahead_m" in settings:
        deep = settings["hands_ahead_m"]
    else:
        return 0.0
    if entry.options.hands_stay:
        return deep
    top = 0.05 * height
    return top + result.timeline.progress[frame] * (deep - top)


HINT = {
    "hands-on-chest": (0.25, -1.0, 0.3),
    "bar-on-back": (-0.1, -1.0, 0.3),
    "front-rack": (1.0, -0.15, 0.1),
    "at-chest": (0.25, -1.0, 0.3),
}
OUTWARD = {"bar-on-back": 0.55, "front-rack": 0.10, "at-chest": -0.75}


def add_arm(chain, trunk, turned, shoulder, z, result, raw, frame):
    """Upper arm, forearm and hand as masses on the trunk (statics needs no shoulder joint)."""
    lengths, rows, mass, centre, marks = raw
    entry, height = variation_file(result.case), result.case.athlete.height_m
    upper, fore = lengths["upper_arm"], lengths["forearm"]
    half = 0.5 * lengths["shoulder_width"]
    hand = rows["hand"]["length_mm"] / marks["stature_mm"] * height * centre["hand"]
    load = entry.get("load")
    if entry["hold"] in ("hanging", "reaching"):
        raised = np.radians(result.case.settings.get("reach_deg", 0.0))
        way = np.array([np.sin(raised), -np.cos(raised), 0.0])
        if entry["hold"] == "hanging":
            ahead = hands_ahead(result, frame, height) / (upper + fore + hand)
            aside = entry.get("grip_outward", 0.0) * height / (upper + fore + hand)
            way = np.array([ahead, -np.sqrt(1 - ahead**2 - aside**2), aside])
        way = turned.T @ way
        elbow, grip = upper * way, (upper + fore + hand) * way
        wrist = (upper + fore) * way
    elif entry["hold"] == "along-trunk":
        way = np.array([0.10, -0.97, 0.22]) / np.linalg.norm([0.10, -0.97, 0.22])
        elbow, wrist, grip = upper * way, (upper + fore) * way, (upper + fore + hand) * way
    else:
        if entry["hold"] == "hands-on-chest":
            grip = np.array([0.12 * height / 1.75, -0.06 * height / 1.75, -0.7 * half])
        else:
            grip = np.array(
                [load["forward"] * height, load["above"] * height, OUTWARD[entry["hold"]] * half]
            )
        reach = np.linalg.norm(grip)
        assert abs(upper - fore) * 1.02 < reach < 0.999 * (upper + fore)
        wrist = grip
        bend = np.arccos((reach**2 + upper**2 - fore**2) / (2 * reach * upper))
        axis = np.cross(grip, HINT[entry["hold"]])
        elbow = upper / reach * pin.exp3(bend * axis / np.linalg.norm(axis)) @ grip
    base = np.add(shoulder, [0, 0, half * z])
    flip = np.array([1.0, 1.0, z])
    # A hand round a bar has no length of its own: it turns with the forearm.
    palm = grip - wrist if np.linalg.norm(grip - wrist) > 1e-9 else elbow - wrist
    size = rows["hand"]["length_mm"] / marks["stature_mm"] * height
    for name, at, way, length in (
        ("upper_arm", centre["upper_arm"] * elbow, elbow, upper),
        ("forearm", elbow + centre["forearm"] * (wrist - elbow), elbow - wrist, fore),
        ("hand", grip, palm, size),
    ):
        chain.mass(trunk, mass[name], base + at * flip, across(rows[name], length), way * flip)
    if load and load["carried_by"] and "forward" not in load:
        chain.mass(trunk, 0.5 * result.case.load_kg, base + grip * flip)
