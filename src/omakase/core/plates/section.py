"""From a stack to the stiffness and mass that the plate solver integrates.

Generalised strains, in this order: ε0 (εx, εy, γxy of the reference mid-plane), κφ (φx,x  φy,y  φx,y+φy,x),
κw (−w,xx  −w,yy  −2w,xy) and the core or transverse shear γ (φx + w,x  φy + w,y).

*Monolithic*: first-order shear deformation; ε(z) = ε0 + z κφ, κw does no work.
*Sandwich*: three layers, the thick-face theory (Plantema 1966; Allen 1969).  Each face moves with
(u, v) + z_f (φx, φy) at its mid-plane z_f and bends with its *own* curvature κw; between the faces the core
shears by (d/t_c)(φ + grad w), d the distance of the face mid-planes, so its shear stiffness is G_c d²/t_c.
"""

from __future__ import annotations

from functools import cached_property
from typing import Literal

import msgspec
import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.laminate.stiffness import TransverseShear, layer_shear_stiffness, slices, stack_stiffness

Kinematics = Literal["three_layer", "first_order"]


class Face(msgspec.Struct, frozen=True, eq=False, dict=True):
    """One face of a sandwich: its layers, mid-plane height and own A, B, D about that mid-plane."""

    name: str
    layers: range
    z_middle: float
    thickness: float
    A: np.ndarray
    B: np.ndarray
    D: np.ndarray

    @cached_property
    def bending(self) -> np.ndarray:
        """D − B A⁻¹ B, (3, 3), N m: bending stiffness with the face free to slide into its neutral plane."""
        return self.D - self.B @ np.linalg.solve(self.A, self.B)

    def energy(self) -> np.ndarray:
        """Energy in (ε0, κφ, κw), (9, 9): membrane strain ε0 + z_f κφ, curvature κw."""
        z = self.z_middle
        membrane = np.array([[1.0, z, 0.0], [z, z * z, 0.0], [0.0, 0.0, 0.0]])
        mixed = np.array([[0.0, 0.0, 1.0], [0.0, 0.0, z], [1.0, z, 0.0]])
        curvature = np.array([[0.0, 0.0, 0.0], [0.0, 0.0, 0.0], [0.0, 0.0, 1.0]])
        return _blocks(membrane, self.A) + _blocks(mixed, self.B) + _blocks(curvature, self.D)


class Core(msgspec.Struct, frozen=True, eq=False):
    """The core of a sandwich: its layers, bounds, and transverse shear stiffness in panel axes (2, 2), Pa."""

    layers: range
    z_top: float
    z_bottom: float
    shear_modulus: np.ndarray

    @property
    def thickness(self) -> float:
        return self.z_top - self.z_bottom


def _blocks(shares: np.ndarray, stiffness: np.ndarray) -> np.ndarray:
    """``stiffness`` (3, 3) times each of ``shares`` (3, 3), as blocks of a (9, 9) matrix."""
    return (shares[:, None, :, None] * stiffness[None, :, None, :]).reshape(9, 9)


class PlateSection:
    """What one layup is to the plate solver.

    Attributes
    ----------
    membrane : (9, 9) array; energy ½ sᵀ C s of s = (ε0, κφ, κw); N/m, N, N m.
    areal_mass : kg/m².
    rotary_inertia : Σ ρ z² t, kg, for φ.
    """

    def __init__(self, stack: Stack) -> None:
        self.stack = stack
        self.Q = stack_stiffness(stack)
        self._slices = slices(stack)
        density = stack.layer_densities()
        self.areal_mass = float(sum(stack.areal_mass().values()))
        self.rotary_inertia = float(np.sum(density * (stack.z_top**3 - stack.z_bottom**3)) / 3.0)
        self.faces: tuple[Face, ...] = ()
        self.core: Core | None = None
        if stack.core is None:
            self.kinematics: Kinematics = "first_order"
            self._first_order()
        else:
            self.kinematics = "three_layer"
            self._three_layer(stack.core)

    def _first_order(self) -> None:
        A, B, D = self._slices.abd()
        self.membrane = np.zeros((9, 9))
        self.membrane[0:3, 0:3] = A
        self.membrane[0:3, 3:6] = B
        self.membrane[3:6, 0:3] = B
        self.membrane[3:6, 3:6] = D

    @cached_property
    def transverse_shear(self) -> TransverseShear | None:
        """How transverse shear runs through a laminate; None of a sandwich, whose core carries it.

        Raises LayupError if the bending stiffness is singular.
        """
        return TransverseShear(self.stack) if self.core is None else None

    @cached_property
    def shear(self) -> np.ndarray:
        """(2, 2) array, N/m."""
        if self.transverse_shear is not None:
            return self.transverse_shear.stiffness
        assert self.core is not None
        distance = self.faces[0].z_middle - self.faces[1].z_middle
        return self.core.shear_modulus * distance**2 / self.core.thickness

    def _three_layer(self, core: slice) -> None:
        stack = self.stack
        top = self._face("A", range(core.start))
        bottom = self._face("B", range(core.stop, len(stack.layers)))
        self.faces = (top, bottom)
        z_top = float(stack.z_top[core.start])
        z_bottom = float(stack.z_bottom[core.stop - 1])
        self.core = Core(range(core.start, core.stop), z_top, z_bottom, self._core_shear(core))
        self.membrane = top.energy() + bottom.energy() + self.core_energy(top, bottom)

    def _face(self, name: str, layers: range) -> Face:
        z_top, z_bottom = self.stack.z_top[layers], self.stack.z_bottom[layers]
        middle = float(z_top[0] + z_bottom[-1]) / 2.0
        A, B, D = self._slices.abd(middle, layers)
        return Face(name, layers, middle, float(z_top[0] - z_bottom[-1]), A, B, D)

    def _core_shear(self, core: slice) -> np.ndarray:
        """Shear modulus of the core; layers of a core stacked on each other shear in series (equal stress)."""
        layers = self.stack.layers[core]
        if len(layers) == 1:
            return layer_shear_stiffness(layers[0])
        thickness = sum(layer.thickness for layer in layers)
        compliance = sum(np.linalg.inv(layer_shear_stiffness(layer)) * layer.thickness for layer in layers)
        return np.linalg.inv(compliance / thickness)

    def core_energy(self, top: Face, bottom: Face) -> np.ndarray:
        """In-plane energy of the core, its strain running linearly from one interface to the other."""
        assert self.core is not None
        upper = np.array([1.0, top.z_middle, -top.thickness / 2.0])
        lower = np.array([1.0, bottom.z_middle, bottom.thickness / 2.0])
        energy = np.zeros((9, 9))
        for i in self.core.layers:
            z = np.array([self.stack.z_bottom[i], self.stack.z_top[i]])
            z = np.array([z[0], (z[0] + z[1]) / 2.0, z[1]])
            share = ((z - self.core.z_bottom) / self.core.thickness)[:, None]
            strain = share * upper + (1.0 - share) * lower
            weights = np.array([1.0, 4.0, 1.0]) / 6.0 * (z[2] - z[0])  # Simpson, exact for a square
            energy += _blocks((strain.T * weights) @ strain, self.Q[i])
        return energy

    @property
    def uncoupled(self) -> bool:
        """True where stretching and bending do not couple, so that u and v stay zero under lateral load."""
        coupling = np.abs(self.membrane[0:3, 3:9]).max()
        scale = np.sqrt(np.abs(self.membrane[0:3, 0:3]).max() * np.abs(self.membrane[3:9, 3:9]).max())
        return bool(coupling < 1e-9 * scale)

    @property
    def boundary_layer(self) -> float:
        """Decay length in m of the faces' own bending, √(ΣD_f / S); zero for a monolithic stack.

        Allen (1969), chapter 2: the faces' own bending fades as e^(−x/ℓ) from clamps and steps of load.
        """
        if not self.faces:
            return 0.0
        bending = sum(np.trace(face.D[:2, :2]) / 2.0 for face in self.faces)
        return float(np.sqrt(bending / (np.trace(self.shear) / 2.0)))

    @cached_property
    def sheet_thickness(self) -> float:
        """Thickness in m of the even sheet that stretches and bends in the same proportion, √(12 D/A).

        That of an isotropic sheet itself; some 1.7 times the distance of the faces of a sandwich.
        """
        diagonal = np.diag(self.membrane)
        return float(np.sqrt(12.0 * diagonal[3:5].max() / diagonal[:2].max()))

    def levels(self, layer: int, z: float) -> tuple[float, float]:
        """(z_φ, z_w) with the strain at height z of a face ply or laminate layer being ε0 + z_φ κφ + z_w κw."""
        for face in self.faces:
            if layer in face.layers:
                return face.z_middle, z - face.z_middle
        return z, 0.0
