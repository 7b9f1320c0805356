"""A slow and simple pour, cell by cell: the reference that the quick one is held against."""

from dataclasses import dataclass
from heapq import heappop, heappush, merge

import numpy as np

from isostasis.core.ground.filling import Filled, outlets, pool_of

_EPS = 1e-9


@dataclass(slots=True, eq=False)
class Body:
    """A pool while it rises: its cells, the width of its surface, and the shore it may climb next."""

    level: float
    width: float
    cells: list[int]
    shore: list[tuple[float, int, bool]]  # (height, cell, leaves the base there)


def slow_fill(ground, z, base, start, volume_ml):
    """Pour `volume_ml` at the cell `start`: it runs downhill, fills hollows, spills over saddles, merges with
    what it meets, and is lost where it reaches an open edge. Poured = in pools + lost.

    Time grows with the cells that get wet, n log n.
    """
    ny, nx = z.shape
    heights, widths, on_base = z.ravel(), ground.inside.ravel(), ground.on_base.ravel()
    leaves = outlets(ground, z, base).ravel()
    owner = {}
    left = volume_ml * 1000 / ground.cell_area  # in mm x cells
    lost_at = None

    def beside(cell):
        row, column = divmod(cell, nx)
        near = [cell - nx] if row else []
        near += [cell + nx] if row + 1 < ny else []
        near += [cell - 1] if column else []
        near += [cell + 1] if column + 1 < nx else []
        return [other for other in near if on_base[other]]

    def wet(body, cell):
        body.cells.append(cell)
        body.width += float(widths[cell])
        owner[cell] = body
        for other in beside(cell):
            if owner.get(other) is not body:
                heappush(body.shore, (float(heights[other]), other, False))
        if leaves[cell] < np.inf:
            heappush(body.shore, (float(leaves[cell]), cell, True))

    def downhill(cell):
        """The cell where a drop at `cell` comes to rest: a pool, an open edge, or a lowest place."""
        while cell not in owner and leaves[cell] > heights[cell]:
            lower = min(beside(cell), key=lambda other: heights[other], default=cell)
            if heights[lower] >= heights[cell]:
                break
            cell = lower
        return cell

    cell = start[0] * nx + start[1]
    body = None
    while left > _EPS:
        if body is None:
            cell = downhill(cell)
            if cell not in owner and leaves[cell] <= heights[cell]:
                lost_at = ground.point_of(*divmod(cell, nx))
                break
            body = owner.get(cell)
            if body is None:
                body = Body(float(heights[cell]), 0.0, [], [])
                wet(body, cell)
        if not body.shore:
            body.level += left / body.width
            left = 0.0
            break
        height, shore_cell, leaving = body.shore[0]
        other = owner.get(shore_cell)
        if other is body and not leaving:
            heappop(body.shore)
        elif other is not None and other is not body and other.level >= body.level - _EPS:
            # Two levels meet at a saddle. From here on they rise as one.
            rise = (max(other.level, height) - body.level) * body.width
            if rise > left:
                body.level += left / body.width
                left = 0.0
                break
            left -= max(rise, 0.0)
            other.level = max(other.level, body.level + max(rise, 0.0) / body.width)
            for mine in body.cells:
                owner[mine] = other
            other.cells += body.cells
            other.width += body.width
            other.shore = list(merge(sorted(other.shore), sorted(body.shore)))
            body = other
        elif height < body.level - _EPS:
            cell, body = shore_cell, other  # over the saddle and down the far side
        else:
            rise = (height - body.level) * body.width
            if rise >= left:
                body.level += left / body.width
                left = 0.0
                break
            left -= rise
            body.level = max(body.level, height)
            if leaving:
                lost_at = ground.point_of(*divmod(shore_cell, nx))
                break
            if other is None:
                heappop(body.shore)
                wet(body, shore_cell)
            else:
                body = other
    bodies = {id(one): one for one in owner.values()}.values()
    pools = []
    for one in bodies:
        cells = np.zeros(ny * nx, dtype=bool)
        cells[one.cells] = True
        pools.append(pool_of(ground, z, cells.reshape(ny, nx) & (z < one.level), one.level))
    pools = [pool for pool in pools if pool.volume_ml > _EPS]
    return Filled(tuple(pools), left * ground.cell_area / 1000 if lost_at else 0.0, lost_at)
