"""Finite elements for the Helmholtz equation with rigid walls: meshes of plans and solids, eigenmodes, values at
points.

Cubic triangles and quadratic tetrahedra from scikit-fem. The library's own iterative solver does not say when it fails,
so
scipy's are used: dense for small problems, where it is the fastest, else Lanczos with a direct factorisation.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property
from itertools import pairwise
from typing import Any, Final

import numpy as np
import shapely
import skfem
from scipy.linalg import eigh
from scipy.sparse import csc_matrix
from scipy.sparse.linalg import splu
from scipy.spatial import Delaunay, cKDTree
from shapely.geometry import Polygon
from skfem.models.poisson import laplace, mass

from keenquiet.core.errors import InputError
from keenquiet.core.kept import Kept
from keenquiet.core.room.room import Rect
from keenquiet.core.types import FloatArray, IntArray

MOST_UNKNOWNS: Final = 200_000
_GRADED_RINGS: Final = (
    5  # rings of ever smaller triangles around a re-entrant corner, where the pressure gradient is singular
)
_CANDIDATES: Final = 24  # nearest elements among which a point is looked for
_FEW: Final = 16
_DENSE_UP_TO: Final = 1600
_BLOCK: Final = 8
_RESIDUAL: Final = 1e-5
Progress = Callable[[float], None]


@dataclass(frozen=True)
class Field:
    """A family of fields on a mesh.

    basis : finite elements. nodes : (n_unknowns, n_fields) values at the nodes.
    """

    basis: Any
    nodes: FloatArray
    _few: dict[bytes, FloatArray] = field(default_factory=dict, repr=False, compare=False)

    @cached_property
    def _finder(self) -> tuple[Any, FloatArray, FloatArray]:
        mesh = self.basis.mesh
        corners = mesh.p[:, mesh.t]  # (d, d + 1, n_elements)
        spans = (corners[:, 1:] - corners[:, :1]).transpose(2, 0, 1)
        return cKDTree(corners.mean(axis=1).T), np.linalg.inv(spans), corners[:, 0].T

    def cells(self, points: FloatArray) -> IntArray:
        """Element that holds each point (n, d), or the nearest one for points on the rim, (n,)."""
        tree, inverse, first = self._finder
        count = min(_CANDIDATES, len(first))
        _, near = tree.query(points, k=count)
        near = near.reshape(len(points), count)
        share = np.einsum("nkij,nkj->nki", inverse[near], points[:, None, :] - first[near])
        least = np.minimum(share.min(axis=2), 1 - share.sum(axis=2))
        cells: IntArray = np.take_along_axis(near, np.argmax(least, axis=1)[:, None], axis=1)[:, 0]
        return cells

    def at(self, points: FloatArray) -> FloatArray:
        """Values at points (n, d): (n, n_fields)."""
        points = np.asarray(points, dtype=float)
        if len(points) > _FEW:
            return self._at(points)
        key = points.tobytes()  # one forecast asks for its performer and its microphone many times
        if key not in self._few:
            if len(self._few) > 64:
                self._few.clear()
            self._few[key] = self._at(points)
        return self._few[key]

    def _at(self, points: FloatArray) -> FloatArray:
        cells = self.cells(points)
        local = self.basis.mapping.invF(points.T[:, :, None], tind=cells)
        values = np.zeros((len(points), self.nodes.shape[1]))
        for k in range(self.basis.Nbfun):
            # values alone: the library's gbasis would map gradients too, at five times the cost
            shape = np.asarray(self.basis.elem.lbasis(local[:, :, 0], k)[0])
            values += shape[:, None] * self.nodes[self.basis.element_dofs[k, cells]]
        return values


def plan_mesh(parts: list[Polygon], *, step_m: float) -> tuple[Any, IntArray]:
    """Triangles over adjoining polygons, none across a border; (mesh, number of the part each triangle lies in).

    Points: borders at even steps, a hexagonal lattice within, rings around re-entrant corners; Delaunay joins them. A
    border
    that the triangulation cuts shows as wrong areas; then the step is made smaller.
    """
    for attempt in range(6):
        step = step_m * 0.75**attempt
        points = _points(parts, step)
        triangles = Delaunay(points).simplices
        corners = points[triangles]
        (ax, ay), (bx, by) = (corners[:, 1] - corners[:, 0]).T, (corners[:, 2] - corners[:, 0]).T
        area = 0.5 * (ax * by - ay * bx)
        centre = corners.mean(axis=1)
        owner = np.full(len(triangles), -1)
        for number, part in enumerate(parts):
            owner[shapely.contains_xy(part, centre[:, 0], centre[:, 1])] = number
        kept = (owner >= 0) & (np.abs(area) > 1e-9)
        sums = np.bincount(owner[kept], weights=np.abs(area[kept]), minlength=len(parts))
        if np.allclose(sums, [part.area for part in parts], rtol=1e-6):
            used, renumbered = np.unique(triangles[kept], return_inverse=True)
            return skfem.MeshTri(
                np.ascontiguousarray(points[used].T), np.ascontiguousarray(renumbered.reshape(-1, 3).T)
            ), owner[kept]
    raise InputError(
        "shape.plan", "could not be divided into triangles.", "Simplify the outline: leave out very short walls."
    )


def _points(parts: list[Polygon], step_m: float) -> FloatArray:
    whole = shapely.union_all(parts)
    lines = shapely.union_all([part.boundary for part in parts])
    segments = []
    for line in getattr(lines, "geoms", [lines]):
        corners = np.array(line.simplify(0).coords)
        segments += list(pairwise(corners))
    # borders of different parts may share a stretch: cut every segment at every corner that lies on it
    corners = np.unique(np.round(np.array([p for s in segments for p in s]), 9), axis=0)
    sharp = _reentrant(whole)
    border: list[FloatArray] = [corners]
    for start, end in segments:
        span = end - start
        length = float(np.hypot(*span))
        along = (corners - start) @ span / length
        off = np.abs((corners - start) @ np.array([-span[1], span[0]])) / length
        stops = np.unique(
            np.concatenate([[0.0, length], along[(off < 1e-7) & (along > 1e-7) & (along < length - 1e-7)]])
        )
        for low, high in pairwise(stops):
            count = max(int(np.ceil((high - low) / step_m)), 1)
            inner = np.linspace(low, high, count + 1)[1:-1]
            graded = []
            for end_at, corner in ((low, start + span * low / length), (high, start + span * high / length)):
                if _near_any(corner, sharp):
                    away = step_m * 0.5 ** np.arange(1, _GRADED_RINGS + 1)
                    graded.append(end_at + (away if end_at == low else -away))
            inner = np.concatenate([inner, *graded])
            inner = inner[(inner > low + 1e-9) & (inner < high - 1e-9)]
            border.append(start + np.outer(inner / length, span))
    rings = [
        corner + step_m * 0.5**j * np.column_stack([np.cos(a), np.sin(a)])
        for corner in sharp
        for j in range(1, _GRADED_RINGS + 1)
        for a in [np.arange(12) * np.pi / 6 + 0.26 * (j % 2)]
    ]
    x0, y0, x1, y1 = whole.bounds
    rows = np.arange(y0, y1, step_m * np.sqrt(3) / 2)
    lattice = np.concatenate(
        [
            np.column_stack(
                [
                    np.arange(x0 + 0.5 * step_m * (i % 2), x1, step_m),
                    np.full_like(np.arange(x0 + 0.5 * step_m * (i % 2), x1, step_m), y),
                ]
            )
            for i, y in enumerate(rows)
        ]
    )
    border_points = np.concatenate(border)
    free = np.concatenate([lattice[_far_from(lattice, sharp, 0.75 * step_m)], *rings]) if rings else lattice
    inside = shapely.contains_xy(whole, free[:, 0], free[:, 1])
    free = free[inside]
    # a point closer to the border than half its spacing there would cut the border's edges
    distance = shapely.distance(shapely.points(free), lines)
    spacing = np.full(len(free), step_m)
    for corner in sharp:
        spacing = np.minimum(spacing, np.maximum(np.hypot(*(free - corner).T), 1e-3))
    free = free[distance > 0.52 * np.minimum(step_m, spacing * 0.5 + (spacing >= step_m * 0.75) * step_m)]
    points = np.concatenate([border_points, free])
    _, first = np.unique(np.round(points, 7), axis=0, return_index=True)
    unique: FloatArray = points[np.sort(first)]
    return unique


def _near_any(corner: FloatArray, sharp: FloatArray) -> bool:
    return bool(len(sharp) and np.min(np.hypot(*(sharp - corner).T)) < 1e-6)


def _far_from(points: FloatArray, corners: FloatArray, distance_m: float) -> Any:
    return np.all(np.hypot(points[:, None, 0] - corners[:, 0], points[:, None, 1] - corners[:, 1]) > distance_m, axis=1)


def _reentrant(whole: Any) -> FloatArray:
    """Corners where the inner angle passes 180 degrees, (n, 2)."""
    found = []
    for part in getattr(whole, "geoms", [whole]):
        ring = np.array(shapely.geometry.polygon.orient(part).exterior.simplify(1e-9).coords)[:-1]
        before, after = ring - np.roll(ring, 1, axis=0), np.roll(ring, -1, axis=0) - ring
        turn = np.arctan2(before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0], np.sum(before * after, axis=1))
        found += list(ring[turn < np.deg2rad(-5)])
    return np.array(found).reshape(-1, 2)


def layered_mesh(base: Any, heights: list[list[FloatArray]]) -> Any:
    """Tetrahedra in columns over a triangle mesh.

    heights : for each triangle the levels of its column, lowest first, each the heights over its three corners; columns
    that
    touch must have equal levels where they touch. [m]
    """
    index: dict[tuple[int, int], int] = {}
    points: list[tuple[float, float, float]] = []

    def node(vertex: int, z: float) -> int:
        key = (vertex, round(z * 1e7))
        if key not in index:
            index[key] = len(points)
            points.append((base.p[0, vertex], base.p[1, vertex], z))
        return index[key]

    tets = []
    for number, levels in enumerate(heights):
        corner = np.argsort(base.t[:, number])  # sorted corners: neighbouring prisms split their common side alike
        vertices = base.t[corner, number]
        for low, high in pairwise(levels):
            a, b, c = (node(int(v), float(z)) for v, z in zip(vertices, low[corner], strict=True))
            d, e, f = (node(int(v), float(z)) for v, z in zip(vertices, high[corner], strict=True))
            tets += [(a, b, c, f), (a, b, e, f), (a, d, e, f)]
    return skfem.MeshTet(np.ascontiguousarray(np.array(points).T), np.ascontiguousarray(np.array(tets).T))


def eigenmodes(
    mesh: Any, *, k_max: float, volume: float, count: int, progress: Progress | None = None
) -> tuple[FloatArray, Field]:
    """Rigid modes with 0 < k <= k_max: wavenumbers (n,) [rad/m] and their shapes, mean of psi^2 over the domain 1.

    count : about how many there are. progress gets shares 0 to 1 and may raise to stop.  Raises InputError when the
    mesh has more than MOST_UNKNOWNS unknowns.
    """
    element = skfem.ElementTriP3() if mesh.p.shape[0] == 2 else skfem.ElementTetP2()
    basis = skfem.Basis(mesh, element)
    if basis.N > MOST_UNKNOWNS:
        raise too_fine(basis.N)
    stiffness, masses = csc_matrix(laplace.assemble(basis)), csc_matrix(mass.assemble(basis))
    if basis.N <= _DENSE_UP_TO:
        squared, nodes = eigh(stiffness.toarray(), masses.toarray(), subset_by_value=(-np.inf, k_max**2))
        return _sorted(squared, nodes, basis, k_max, volume)
    # in the middle of what is wanted: from both ends of the transformed spectrum it takes half as many vectors
    shift = 0.47 * k_max**2
    solved = splu(
        stiffness - shift * masses, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True}
    )
    squared, nodes = _lanczos(masses, solved.solve, shift=shift, below=k_max**2, expected=count, progress=progress)
    return _sorted(squared, nodes, basis, k_max, volume)


def _lanczos(
    masses: Any,
    solve: Callable[[FloatArray], FloatArray],
    *,
    shift: float,
    below: float,
    expected: int,
    progress: Progress | None,
) -> tuple[FloatArray, FloatArray]:
    """Eigenpairs of (K, M) from 0 up to `below` by block Lanczos on (K - shift M)^-1 M, fully reorthogonalised.

    Ours, since the installed ARPACK took six times as long for 150 modes of 8600 unknowns. It ends when the residual of
    every
    wanted pair is below _RESIDUAL and a pair above the limit has come out, so that none is missed. Raises RuntimeError
    when it
    does not get there.
    Source: R. Grimes, J. Lewis, H. Simon, SIAM J. Matrix Anal. Appl. 15 (1994) 228.
    """
    n = masses.shape[0]
    block: FloatArray = np.random.default_rng(1).standard_normal(
        (n, _BLOCK)
    )  # the same room gives the same modes, signs included
    factor = np.linalg.cholesky(block.T @ (masses @ block))
    block = np.asarray(np.linalg.solve(factor, block.T).T, dtype=float)
    most = min(n, 8 * expected + 200)
    basis, weighted = np.empty((n, most + _BLOCK), order="F"), np.empty((n, most + _BLOCK), order="F")
    projected = np.zeros((most + _BLOCK, most + _BLOCK))
    for m in range(_BLOCK, most + 1, _BLOCK):
        new = slice(m - _BLOCK, m)
        basis[:, new], weighted[:, new] = block, masses @ block
        step = solve(weighted[:, new])
        projected[:m, new] = weighted[:, :m].T @ step
        step -= basis[:, :m] @ projected[:m, new]
        step -= basis[:, :m] @ (weighted[:, :m].T @ step)
        gram = step.T @ (masses @ step)
        factor = np.linalg.cholesky((gram + gram.T) / 2)
        block = np.asarray(np.linalg.solve(factor, step.T).T, dtype=float)
        if progress is not None:
            progress(min(0.95, 0.1 + 0.85 * m / (2.4 * expected + 40)))
        if m >= 2 * expected and (m // _BLOCK) % 2 == 0:
            upper = np.triu(projected[:m, :m])
            theta, vectors = np.linalg.eigh(upper + np.triu(upper, 1).T)
            squared = shift + 1 / theta
            residual = np.linalg.norm(factor.T @ vectors[-_BLOCK:], axis=0) / np.abs(theta)
            wanted = (squared <= below) & (squared > -0.02 * below)
            beyond = (theta > 0) & (squared > below) & (residual < 1e-2)
            if np.any(beyond) and np.all(residual[wanted] < _RESIDUAL):
                return squared[wanted], basis[:, :m] @ vectors[:, wanted]
    raise RuntimeError(f"{expected} modes were expected and the iteration did not settle within {most} vectors")


def _sorted(
    squared: FloatArray, nodes: FloatArray, basis: Any, k_max: float, volume: float
) -> tuple[FloatArray, Field]:
    order = np.argsort(squared)
    order = order[(squared[order] > 1e-6 * k_max**2) & (squared[order] <= k_max**2)]
    return np.sqrt(squared[order]), Field(basis, nodes[:, order] * np.sqrt(volume))


def too_fine(unknowns: float) -> InputError:
    """The error for a room whose mesh would pass the limit."""
    return InputError(
        "shape",
        f"a mesh of this room needs about {unknowns:,.0f} unknowns; {MOST_UNKNOWNS:,} are the limit here.",
        "Describe the part of the room that is used, or give it a flat ceiling at the mean height.",
    )


def gauss(low: float, high: float, *, k_max: float) -> tuple[FloatArray, FloatArray]:
    """Gauss-Legendre points and weights on a stretch, enough for products of waves up to k_max. [m]"""
    nodes, weights = np.polynomial.legendre.leggauss(int(k_max * (high - low)) + 8)
    half = (high - low) / 2
    return low + half * (nodes + 1), half * weights


def kept_overlaps() -> Kept[tuple[int, Rect | None], FloatArray]:
    """Overlaps of all pairs of modes with the patches asked for last: a panel that is dragged asks for many."""
    return Kept(most_bytes=40_000_000, most=400)
