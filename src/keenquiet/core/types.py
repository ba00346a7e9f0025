"""Array types used throughout the core."""

import numpy as np
import numpy.typing as npt

FloatArray = npt.NDArray[np.float64]
SingleArray = npt.NDArray[np.float32]  # where time steps by the thousand must stay in a processor's cache
SmallArray = npt.NDArray[np.int16]  # likewise, of small numbers
ByteArray = npt.NDArray[np.uint8]
ComplexArray = npt.NDArray[np.complex128]
IntArray = npt.NDArray[np.int64]
BoolArray = npt.NDArray[np.bool_]
