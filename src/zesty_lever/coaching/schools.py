"""The questions on which practitioners disagree: each side fairly, and what the model can and can't say.

Common practice, no source.
"""

DISPUTED = (
    (
        "What moves first",
        "Hips first keeps the shins quiet and loads the hip; even shares the work; knees first "
        "loads the quads on purpose.",
        "The model says what each does to hip, knee and back. It can't say which "
        "habit holds when tired.",
    ),
    (
        "Knee past the toes",
        "Some avoid it to spare the knee, some take it as normal, some want it for the quads.",
        "Holding the knees back takes about a fifth off the knee's moment and gives it to the hip. The model knows "
        "nothing of tissue or pain.",
    ),
    (
        "Where the weight sits",
        "Heel, whole foot or ball: each school reads the foot its own way.",
        "Moving the pressure point forward loads the ankle and unloads the knee at the same angles.",
    ),
    (
        "Toe-out",
        "Straighter feet or turned-out feet; hips differ.",
        "Toe-out shortens the foot seen from the side and opens the hip; the best angle depends on the hip's shape, "
        "which the model does not know.",
    ),
    (
        "Trunk",
        "Whatever balance needs, along the shin, or as upright as possible.",
        "At the same legs and weight the trunk can't change hip and knee; it changes the lower back and what legs are "
        "possible.",
    ),
    (
        "Low back at lockout",
        "Arched with ribs up, or ribs down with a slight tuck; thrusts here start ribs down.",
        "Height gained by arching is not hip extension; what a spine tolerates the model can't say.",
    ),
    (
        "Where to look",
        "Straight ahead, neutral, or chin tucked.",
        "The head's mass moves by a few centimetres; the model sees almost nothing of it.",
    ),
    (
        "Knees at the top",
        "Locked or soft.",
        "A soft knee keeps the thigh working a little; locked rests it.",
    ),
    (
        "Bounce or pause",
        "A bounce uses what the tissue gives back; a pause takes it away.",
        "The model has inertia but no elastic tissue: it shows what the pause costs, not what the bounce gives.",
    ),
)

# Which question a finding touches, by its code.
TOUCHES = {
    "knee-past-toe": "Knee past the toes",
    "pressure-point": "Where the weight sits",
    "trunk-against-shin": "Trunk",
    "arching": "Low back at lockout",
    "hips-rise-first": "What moves first",
}


def disputed_about(code: str) -> tuple[str, str] | None:
    """Both sides and what the model says to the question that a finding touches, or None."""
    return next(((views, model) for q, views, model in DISPUTED if q == TOUCHES.get(code)), None)
