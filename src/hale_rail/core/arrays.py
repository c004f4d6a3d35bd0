"""numpy, loaded when it is first used: what computes with no array starts without it.

`from hale_rail.core.arrays import np` stands for `import numpy as np`; the names of array types are
for annotations only.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

__all__ = ["Complexes", "Flags", "Floats", "Indices", "np"]

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Floats = NDArray[np.float64]
    Complexes = NDArray[np.complex128]
    Flags = NDArray[np.bool_]
    Indices = NDArray[np.intp]
else:

    class _Numpy:
        """Hands on each name of numpy and keeps it, so that it is looked up once."""

        def __getattr__(self, name: str) -> Any:
            import numpy

            result = getattr(numpy, name)
            setattr(self, name, result)
            return result

    np = _Numpy()
    Floats = Complexes = Flags = Indices = Any
