"""Owns the tree of least length over terminals of one place, under the limits of their clamps. Must not know what they are."""

from functools import cache
from itertools import product
from typing import Any

from riktig.plan.basis.union import UnionFind

MOST_EXACT = 7
"""Up to so many terminals every tree is tried: 16,807 of them."""
_MOST_IMPROVED = 120
_EPS = 1e-6
Edge = tuple[int, int]


def join_shortest(lengths: Any, groups: list[list[int]], room: list[int]) -> list[Edge]:
    """Return the joins between groups of terminals that are joined already, of the least total length that was found.

    Up to seven single terminals it is the least there is. Where the clamps leave no room for any tree, the nearest are joined.

    Args:
        lengths: NumPy array, n x n, symmetric, mm from terminal to terminal.
        groups: terminals by place in `lengths`; those of one group are joined.
        room: how many more conductors each terminal takes.
    """
    if len(groups) < 2:
        return []
    nodes = [member for group in groups for member in group]
    if len(nodes) == len(groups) <= MOST_EXACT:
        exact = _least_tree(lengths, nodes, room)
        if exact is not None:
            return exact
    left = list(room)
    edges = _greedy(lengths, groups, left)
    if len(nodes) == len(groups) <= _MOST_IMPROVED and min(left) >= 0:
        edges = _turn_parts(lengths, _exchange(lengths, edges, left, nodes), room)
    return edges


@cache
def _trees(count: int) -> tuple[Any, Any]:
    """Return all trees on `count` nodes, as edges (trees x edges x 2), and the degrees of their nodes (trees x nodes)."""
    import numpy as np

    made = []
    for code in product(range(count), repeat=count - 2):
        degree = [1 + code.count(node) for node in range(count)]
        edges = []
        for node in code:
            leaf = degree.index(1)
            edges.append((leaf, node))
            degree[leaf], degree[node] = 0, degree[node] - 1
        one, other = (node for node in range(count) if degree[node] == 1)
        edges.append((one, other))
        made.append(edges)
    edges_of = np.array(made)
    degrees = np.stack([(edges_of == node).sum(axis=(1, 2)) for node in range(count)], axis=1)
    return edges_of, degrees


def _least_tree(lengths: Any, nodes: list[int], room: list[int]) -> list[Edge] | None:
    """Return the tree of least length that keeps the limits, None if no tree does."""
    import numpy as np

    edges, degrees = _trees(len(nodes))
    at = np.array(nodes)
    total = lengths[at[edges[:, :, 0]], at[edges[:, :, 1]]].sum(axis=1)
    total = np.where((degrees <= np.array([room[node] for node in nodes])).all(axis=1), total, np.inf)
    best = int(total.argmin())
    if not np.isfinite(total[best]):
        return None
    return [(nodes[a], nodes[b]) for a, b in edges[best].tolist()]


def _greedy(lengths: Any, groups: list[list[int]], left: list[int]) -> list[Edge]:
    """Return joins, the shortest first, that leave every part a clamp with room until all are one; `left` is used up."""
    import numpy as np

    nodes = [member for group in groups for member in group]
    part = UnionFind[str]()
    space: dict[str, int] = {}
    for group in groups:
        for member in group[1:]:
            part.join(str(group[0]), str(member))
        space[part.find(str(group[0]))] = sum(left[member] for member in group)
    rows, columns = np.triu_indices(len(nodes), 1)
    at = np.array(nodes)
    order = np.argsort(lengths[at[rows], at[columns]], kind="stable")
    pairs = list(zip(at[rows[order]].tolist(), at[columns[order]].tolist(), strict=True))
    edges: list[Edge] = []
    for is_bound in (True, False):
        for a, b in pairs:
            one, other = part.find(str(a)), part.find(str(b))
            if len(edges) == len(groups) - 1:
                return edges
            if one == other or (is_bound and min(left[a], left[b]) < 1):
                continue
            merged = space[one] + space[other] - 2
            if is_bound and merged < 1 and len(edges) < len(groups) - 2:
                continue
            part.join(one, other)
            space[part.find(one)] = merged
            left[a], left[b] = left[a] - 1, left[b] - 1
            edges.append((a, b))
    return edges


def _exchange(lengths: Any, edges: list[Edge], left: list[int], nodes: list[int]) -> list[Edge]:
    """Return the tree after every join was given up for a shorter one between the same two parts, where there is one."""
    import numpy as np

    edges, is_better = list(edges), True
    while is_better:
        is_better = False
        for place, (a, b) in enumerate(edges):
            rest = edges[:place] + edges[place + 1 :]
            near = _reached(a, rest)
            left[a], left[b] = left[a] + 1, left[b] + 1
            one = np.array([n for n in nodes if n in near and left[n] > 0])
            other = np.array([n for n in nodes if n not in near and left[n] > 0])
            block = lengths[np.ix_(one, other)]
            i, j = np.unravel_index(int(block.argmin()), block.shape)
            c, d = int(one[i]), int(other[j])
            if lengths[c, d] < lengths[a, b] - _EPS:
                edges[place], is_better = (c, d), True
            else:
                c, d = a, b
            left[c], left[d] = left[c] - 1, left[d] - 1
    return edges


def _reached(start: int, edges: list[Edge]) -> set[int]:
    beside: dict[int, list[int]] = {}
    for a, b in edges:
        beside.setdefault(a, []).append(b)
        beside.setdefault(b, []).append(a)
    seen, open_nodes = {start}, [start]
    while open_nodes:
        for node in beside.get(open_nodes.pop(), ()):
            if node not in seen:
                seen.add(node)
                open_nodes.append(node)
    return seen


def _turn_parts(lengths: Any, edges: list[Edge], room: list[int]) -> list[Edge]:
    """Return the tree after parts of it were turned round, where it is a single chain: two joins for two shorter ones."""
    chain = _as_chain(edges)
    if chain is None or len(chain) < 4:
        return edges
    may_end_anywhere = all(room[node] > 1 for node in chain)
    first, last = (0, len(chain)) if may_end_anywhere else (1, len(chain) - 1)
    is_better = True
    while is_better:
        is_better = False
        for i in range(first, last):
            for j in range(i + 1, last):
                before, after = chain[i - 1] if i else None, chain[j + 1] if j + 1 < len(chain) else None
                gain = (lengths[before, chain[i]] - lengths[before, chain[j]]) if before is not None else 0.0
                gain += (lengths[chain[j], after] - lengths[chain[i], after]) if after is not None else 0.0
                if gain > _EPS:
                    chain[i : j + 1] = chain[i : j + 1][::-1]
                    is_better = True
    return list(zip(chain, chain[1:], strict=False))


def _as_chain(edges: list[Edge]) -> list[int] | None:
    """Return the nodes of a tree in a row, None if it branches."""
    beside: dict[int, list[int]] = {}
    for a, b in edges:
        beside.setdefault(a, []).append(b)
        beside.setdefault(b, []).append(a)
    ends = [node for node, others in beside.items() if len(others) == 1]
    if len(ends) != 2:
        return None
    chain, before = [ends[0]], -1
    while len(chain) <= len(edges):
        step = next(node for node in beside[chain[-1]] if node != before)
        before = chain[-1]
        chain.append(step)
    return chain
