"""IEC 60890 / VDE 0660-500 (temperature rise of enclosures): effective surface, and the air that a fan must move."""

from riktig.standards.tables import Source, read_columns, read_table, step_up

SOURCE_AREA = Source("effective surface: IEC 60890 / VDE 0660-500")
SOURCE_K = Source("heat passed by the wall: common practice", ("enclosure_k",))
SOURCE_AIR = Source("air of a filter fan: common practice", ("air_factor",))


def effective_area_m2(width: float, height: float, depth: float, mounting: str) -> float:
    """Return the surface in m2 that gives off heat, of an enclosure that stands by itself.

    Args:
        width: outside, in m.
        height: outside, in m.
        depth: outside, in m.
        mounting: `free`, all sides in the open; `wall`, its rear covered; `floor`, rear to a wall, on the floor.

    Source:
        VDE 0660-500 / IEC 60890, from memory: all sides 1.8 H (W + D) + 1.4 W D; at a wall 1.4 W (H + D) + 1.8 D H.
        They are the faces times 1.4 (top), 0.9 (open), 0.5 (covered), the floor left out.
    """
    if mounting == "free":
        return 1.8 * height * (width + depth) + 1.4 * width * depth
    return 1.4 * width * (height + depth) + 1.8 * depth * height


def wall_coefficient(material: str) -> float:
    """Return how much heat passes the wall, W/(m2 K).

    Raises:
        KeyError: no such material.

    Source:
        Common practice, from memory: painted sheet steel 5.5, stainless steel 4.5, polyester 3.5, aluminium 12.
    """
    for row in read_table("enclosure_k"):
        if row["material"] == material:
            return float(row["k"])
    raise KeyError(material)


def temperature_rise_k(loss_w: float, area_m2: float, coefficient: float, air_m3h: float = 0.0) -> float:
    """Return how much warmer than its surroundings the air inside gets on average, in K.

    Args:
        loss_w: heat set free inside, W.
        area_m2: effective surface, m2.
        coefficient: W/(m2 K) of the wall.
        air_m3h: air that a filter fan moves through, m3/h at up to 100 m altitude.

    Source:
        Ti - Tu = P / (k A + V / f), common practice, from memory.
    """
    return loss_w / (coefficient * area_m2 + air_m3h / air_factor(0))


def needed_air_m3h(loss_w: float, area_m2: float, coefficient: float, rise_k: float, altitude_m: float = 0.0) -> float:
    """Return the air in m3/h that keeps the rise inside at `rise_k`, the heat through the walls credited; 0 if none.

    Source:
        V = f (P - k A ΔT) / ΔT, common practice, from memory.
    """
    left_w = loss_w - coefficient * area_m2 * rise_k
    return max(0.0, air_factor(altitude_m) * left_w / rise_k)


def air_factor(altitude_m: float) -> float:
    """Return m3 K/(W h) of air at an altitude in m; beyond 1000 m that of 1000 m.

    Source:
        Common practice, from memory.
    """
    pairs = read_columns("air_factor", "altitude_m", "factor")
    found = step_up(pairs, altitude_m)
    return found if found is not None else pairs[-1][1]
