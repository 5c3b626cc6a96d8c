"""What is laid, painted layer by layer from the moves alone: a plain way of its own to look."""

import numpy as np
from scipy.ndimage import convolve

from northpace.moves import FEATURES

#: mm of a cell.
CELL = 0.1


class Raster:
    """The beads of a plan as images, one a layer; x, y in mm around the middle of the bed."""

    def __init__(self, plan, without=()):
        self.plan = plan
        moves, origin = plan.moves, plan.spec.machine.origin
        skipped = [FEATURES.index(name) for name in without]
        laid = np.flatnonzero(
            (moves.width > 0) & (moves.layer >= 0) & ~np.isin(moves.feature, skipped)
        )
        self.row, self.layer, self.moves = laid, moves.layer[laid], moves
        self.start = np.column_stack([moves.x[laid - 1], moves.y[laid - 1]]) - origin
        self.end = np.column_stack([moves.x[laid], moves.y[laid]]) - origin
        self.low = np.minimum(self.start, self.end).min(axis=0) - 2
        size = np.maximum(self.start, self.end).max(axis=0) + 2 - self.low
        self.shape = tuple(np.ceil(size / CELL).astype(int))
        self.images = {}

    def points(self, k):
        """Points every half cell along a laid move, with the length each stands for."""
        far = np.hypot(*(self.end[k] - self.start[k]))
        count = max(int(np.ceil(far / (CELL / 2))), 1)
        t = (np.arange(count) + 0.5) / count
        return self.start[k] + t[:, None] * (self.end[k] - self.start[k]), far / count

    def image(self, layer, wider=0.0):
        """How often each cell of a layer is laid over by beads that are ``wider`` mm wider."""
        key = (layer, wider)
        if key not in self.images:
            image = np.zeros(self.shape, np.int16)
            for k in np.flatnonzero(self.layer == layer):
                mask = np.zeros(self.shape, bool)
                half = self.moves.width[self.row[k]] / 2 + wider / 2
                reach = int(np.ceil(half / CELL)) + 1
                near = np.arange(-reach, reach + 1)
                dx, dy = (near * CELL)[:, None], (near * CELL)[None, :]
                for point in self.points(k)[0]:
                    at = (point - self.low) / CELL
                    cx, cy = np.floor(at).astype(int)
                    ox, oy = (at - (cx, cy) - 0.5) * CELL
                    disc = (dx - ox) ** 2 + (dy - oy) ** 2 <= half**2
                    mask[cx - reach : cx + reach + 1, cy - reach : cy + reach + 1] |= disc
                image += mask
            self.images[key] = image
        return self.images[key]

    def filled(self, layer, around):
        """How often its own volume each cell of a layer holds, taken from the filament that is fed
        and spread over the width of each bead, on average over a disc of so many mm.
        """
        image = np.zeros(self.shape)
        plan = self.plan
        area = np.pi / 4 * plan.spec.material.diameter**2
        for k in np.flatnonzero(self.layer == layer):
            row = self.row[k]
            points, each = self.points(k)
            half = self.moves.width[row] / 2
            count = int(np.ceil(2 * half / (CELL / 2)))
            aside = ((np.arange(count) + 0.5) / count * 2 - 1) * half
            way = self.end[k] - self.start[k]
            far = np.hypot(*way)
            if not far:
                continue
            across = np.array([-way[1], way[0]]) / far
            cells = (points[:, None] + aside[None, :, None] * across - self.low) / CELL
            cx, cy = np.floor(cells.reshape(-1, 2)).astype(int).T
            room = CELL * CELL * self.moves.height[row] * count * len(points)
            np.add.at(image, (cx, cy), self.moves.filament[row] * area / room)
        reach = int(np.ceil(around / 2 / CELL))
        near = np.hypot(*np.mgrid[-reach : reach + 1, -reach : reach + 1]) * CELL <= around / 2
        return convolve(image, near / near.sum())

    def covered(self, layer, box):
        """Share of a box (low x, low y, high x, high y in mm) that a layer covers."""
        (a, b), (c, d) = (
            np.round((np.array(corner) - self.low) / CELL).astype(int)
            for corner in (box[:2], box[2:])
        )
        return float((self.image(layer)[a:c, b:d] > 0).mean())

    def in_air(self, layer, features=None, below=1):
        """mm of a layer's beads under whose middle nothing lies in the layer ``below``."""
        under, out = self.image(layer - below, CELL), 0.0
        for k in np.flatnonzero(self.layer == layer):
            if features and FEATURES[self.moves.feature[self.row[k]]] not in features:
                continue
            points, each = self.points(k)
            cx, cy = np.floor((points - self.low) / CELL).astype(int).T
            out += each * float((under[cx, cy] == 0).sum())
        return out

    def laid(self, layer, feature):
        """mm of a feature in a layer."""
        code = FEATURES.index(feature)
        mine = (self.layer == layer) & (self.moves.feature[self.row] == code)
        return float(np.hypot(*(self.end[mine] - self.start[mine]).T).sum())
