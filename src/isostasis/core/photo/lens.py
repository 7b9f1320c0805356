"""From the board's plane into a picture and back: a homography, and the bend of a lens (division model, one term).

Places in a picture are px from its north-west corner, x right and y down; `size` is (width, height) in px. The bend is
measured in half diagonals from the picture's middle, so that it does not change when the picture is made smaller.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..ground.raster import Array

Size = tuple[int, int]
WIDE_FOCUS = 0.77  # focal length of a phone's camera in longer sides of its picture, about: 28 mm on 36 mm


def _scale(size: Size) -> tuple[Array, float]:
    return np.array(size, dtype=float) / 2, float(np.hypot(*size)) / 2


def unbent(points: Array, size: Size, bend: float) -> Array:
    """Where points (n, 2) of a picture would be without the lens's bend: r / (1 + k r2).

    Source: Fitzgibbon, Simultaneous linear estimation of multiple view geometry and lens distortion (CVPR 2001), eq. 5.
    """
    middle, unit = _scale(size)
    off = (points - middle) / unit
    return np.asarray(middle + unit * off / (1 + bend * (off**2).sum(axis=-1, keepdims=True)))


def bent(points: Array, size: Size, bend: float) -> Array:
    """Where points (n, 2) without bend are seen in the picture: the inverse of `unbent`.

    >>> seen = bent(np.array([[10.0, 20.0]]), (400, 300), -0.1)
    >>> np.allclose(unbent(seen, (400, 300), -0.1), [[10.0, 20.0]])
    True
    """
    middle, unit = _scale(size)
    off = (points - middle) / unit
    under = np.maximum(1 - 4 * bend * (off**2).sum(axis=-1, keepdims=True), 0.0)
    return np.asarray(middle + unit * 2 * off / (1 + np.sqrt(under)))


def homography(board: Array, picture: Array) -> Array:
    """The matrix (3, 3) that takes four points (4, 2) of the board to the four of a picture.

    Raises numpy.linalg.LinAlgError where three of them lie on one line.
    Source: Hartley and Zisserman, Multiple View Geometry (2004), sec. 4.1.
    """
    x, y = board.T
    u, v = picture.T
    ones, none = np.ones(4), np.zeros(4)
    rows = np.concatenate(
        [
            np.stack([x, y, ones, none, none, none, -u * x, -u * y], axis=1),
            np.stack([none, none, none, x, y, ones, -v * x, -v * y], axis=1),
        ]
    )
    return np.append(np.linalg.solve(rows, np.concatenate([u, v])), 1.0).reshape(3, 3)


def through(matrix: Array, points: Array) -> Array:
    """Points (n, 2) through a homography."""
    out = points @ matrix[:, :2].T + matrix[:, 2]
    return np.asarray(out[..., :2] / out[..., 2:])


@dataclass(frozen=True)
class Placement:
    """Where a picture of `size` px has the board of width and depth in mm: its corners (4, 2) in px, south-west,
    south-east, north-east, north-west, and the lens's bend."""

    corners: Array
    bend: float
    size: Size
    width_mm: float
    depth_mm: float

    @property
    def board(self) -> Array:
        """The board's corners (4, 2) in mm, in the same order."""
        return np.array([[0, 0], [self.width_mm, 0], [self.width_mm, self.depth_mm], [0, self.depth_mm]], dtype=float)

    @property
    def matrix(self) -> Array:
        """Board in mm to picture in px, without the bend. Raises LinAlgError for corners on one line."""
        return homography(self.board, unbent(self.corners, self.size, self.bend))

    def to_picture(self, points_mm: Array) -> Array:
        """Places (n, 2) of the board as they are seen."""
        return bent(through(self.matrix, points_mm), self.size, self.bend)

    def to_board(self, points_px: Array) -> Array:
        """Places (n, 2) of the picture on the board, in mm."""
        return through(
            np.asarray(np.linalg.inv(self.matrix), dtype=np.float64), unbent(points_px, self.size, self.bend)
        )

    @property
    def px_per_mm(self) -> float:
        """How fine the picture is, on the mean over the board."""
        x, y = unbent(self.corners, self.size, self.bend).T
        area = abs(float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum())) / 2
        return float(np.sqrt(area / (self.width_mm * self.depth_mm)))

    def tilt_deg(self, focus: float = WIDE_FOCUS) -> float:
        """By how much the camera leant from straight above, for a focal length of so many longer sides of the picture.

        Source: Zhang, A flexible new technique for camera calibration (2000), eq. 2: the board's axes in the camera.
        """
        east, north = self._axes(focus)
        down = np.cross(east, north)
        return float(np.degrees(np.arccos(min(abs(down[2]) / np.linalg.norm(down), 1.0))))

    def shift_mm(self, height_mm: float, focus: float = WIDE_FOCUS) -> Array:
        """How far (4, 2) in mm the picture shows what stands `height_mm` above the board's plane beside itself, at each
        corner: away from the point straight under the camera, h r / (H - h)."""
        east, north = self._axes(focus)
        scale = (np.linalg.norm(east) + np.linalg.norm(north)) / 2
        turn = np.stack([east / scale, north / scale, np.cross(east, north) / scale**2], axis=1)
        lens = np.linalg.inv(_lens_of(self.size, focus)) @ self.matrix
        camera = -turn.T @ (lens[:, 2] / scale)
        above = abs(float(camera[2]))
        return np.asarray((self.board - camera[:2]) * height_mm / max(above - height_mm, 1.0))

    def _axes(self, focus: float) -> tuple[Array, Array]:
        """The board's x and y axes as the camera has them, both of the same unknown scale."""
        axes = np.linalg.inv(_lens_of(self.size, focus)) @ self.matrix
        return axes[:, 0], axes[:, 1]


def _lens_of(size: Size, focus: float) -> Array:
    length = focus * max(size)
    return np.array([[length, 0, size[0] / 2], [0, length, size[1] / 2], [0, 0, 1]])
