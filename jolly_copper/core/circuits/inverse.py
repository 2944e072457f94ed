"""The inverse of a grounded Laplacian: written out where it is small, as a factor to solve with where it is large.

Written out, it takes the square of the nodes; a factor of a railroad, which is long and thin, takes little more than
the nodes themselves.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import linalg, sparse
from scipy.sparse import csgraph
from scipy.sparse.linalg import splu

Floats = NDArray[np.float64]
WRITTEN_OUT = 1500
"""Up to this many nodes a dense Cholesky inverse is quickest."""
WIDEST_BAND = 400
"""Up to this wide a banded Cholesky factor solves many columns quickest; above it a sparse one."""
COLUMNS_AT_ONCE = 256


@dataclass(frozen=True)
class Inverse:
    """R = G⁻¹, Ω, with a zero row and column for the ground node, which is the last.

    Exactly one of the three is there. whole: (n+1, n+1). band: Cholesky factor in LAPACK's lower band form, with
    `order` the nodes as they stand in it. factor: SuperLU's.
    """

    size: int
    whole: Floats | None = None
    band: Floats | None = None
    order: NDArray[np.int64] | None = None
    factor: Any = None

    @property
    def nbytes(self) -> int:
        """Bytes it keeps."""
        if self.whole is not None:
            return int(self.whole.nbytes)
        return int(self.band.nbytes) if self.band is not None else 16 * int(self.factor.L.nnz + self.factor.U.nnz)

    def columns(self, right: Floats) -> Floats:
        """R @ right. Shapes (n+1, k) or (n+1,); answers the same."""
        if self.whole is not None:
            return np.asarray(self.whole @ right)
        found = np.zeros_like(right)
        if self.band is not None and self.order is not None:
            found[self.order] = linalg.cho_solve_banded((self.band, True), right[self.order], check_finite=False)
        else:
            found[: self.size] = self.factor.solve(np.ascontiguousarray(right[: self.size]))
        return found

    def rows(self, pick: sparse.csr_matrix) -> Floats:
        """pick @ R: shape (rows of pick, n+1)."""
        if self.whole is not None:
            return np.asarray(pick @ self.whole)
        found = np.empty(pick.shape)
        for start in range(0, pick.shape[0], COLUMNS_AT_ONCE):
            some = pick[start : start + COLUMNS_AT_ONCE]
            found[start : start + COLUMNS_AT_ONCE] = self.columns(some.T.toarray()).T
        return found


def invert(laplacian: sparse.csc_matrix) -> Inverse:
    """The inverse of a grounded Laplacian, 1/Ω.

    Raises:
        ArithmeticError: it is singular.
    """
    size = laplacian.shape[0]
    if size <= WRITTEN_OUT:
        return Inverse(size, whole=_written_out(laplacian))
    order = np.asarray(csgraph.reverse_cuthill_mckee(laplacian.tocsr(), symmetric_mode=True), dtype=np.int64)
    place = np.empty(size, dtype=np.int64)
    place[order] = np.arange(size)
    entries = laplacian.tocoo()
    row, column = place[entries.row], place[entries.col]
    below = row >= column
    width = int((row - column)[below].max(initial=0))
    if width <= WIDEST_BAND:
        band = np.zeros((width + 1, size))
        np.add.at(band, ((row - column)[below], column[below]), entries.data[below])
        factor = linalg.cholesky_banded(band, overwrite_ab=True, lower=True, check_finite=False)
        return Inverse(size, band=factor, order=order)
    return Inverse(size, factor=splu(laplacian, permc_spec="MMD_AT_PLUS_A", options={"SymmetricMode": True}))


def _written_out(laplacian: sparse.csc_matrix) -> Floats:
    size = laplacian.shape[0]
    whole = np.zeros((size + 1, size + 1))
    inverse, failed = linalg.lapack.dpotri(linalg.cholesky(laplacian.toarray(), lower=False, check_finite=False))
    if failed:
        raise ArithmeticError("the network could not be inverted")
    upper = np.triu(inverse)
    whole[:size, :size] = upper + np.triu(upper, 1).T
    return whole
