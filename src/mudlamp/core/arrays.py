"""Names for the array types of the core."""

import numpy as np
import numpy.typing as npt

FloatArray = npt.NDArray[np.float64]
Float32Array = npt.NDArray[np.float32]
BoolArray = npt.NDArray[np.bool_]
IntArray = npt.NDArray[np.int64]
ByteArray = npt.NDArray[np.uint8]
FloatLike = float | npt.ArrayLike
