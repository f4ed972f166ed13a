"""Aerofoils by their equation, as outlines by points."""

from __future__ import annotations

import re

import numpy as np

from omakase.core.errors import MemberError

HALF_POINTS = 17  # of each side, denser toward the nose
CUT = 0.95  # of the chord, where a drawn outline ends: its trailing edge is too thin for walls


def half_thickness(x: np.ndarray, ratio: float) -> np.ndarray:
    """Half the thickness over the chord of a 4-digit aerofoil at x of the chord (NACA report 460, 1933)."""
    polynomial = -0.1260 * x - 0.3516 * x**2 + 0.2843 * x**3 - 0.1015 * x**4
    return 5.0 * ratio * (0.2969 * np.sqrt(x) + polynomial)


def camber(x: np.ndarray, most: float, place: float) -> tuple[np.ndarray, np.ndarray]:
    """(height over the chord, slope) of the mean line of a 4-digit aerofoil at x of the chord: two parabolas that meet
    at ``place`` with ``most`` of height (NACA report 460, 1933)."""
    if most == 0.0:
        return np.zeros_like(x), np.zeros_like(x)
    front = x < place
    share = most / np.where(front, place**2, (1.0 - place) ** 2)
    height = share * np.where(front, 2.0 * place * x - x**2, 1.0 - 2.0 * place + 2.0 * place * x - x**2)
    return height, 2.0 * share * (place - x)


def digits(number: str) -> tuple[float, float, float]:
    """(camber, its place, thickness) over the chord that a number such as 2412 states.

    Raises MemberError for what is no such number, and outside the range in which the equation is used.
    """
    if not re.fullmatch(r"[0-9]{4}", number.strip()):
        raise MemberError(f"a 4-digit profile is named by four digits, such as 2412, not '{number[:20]}'")
    most, place, ratio = int(number.strip()[0]) / 100.0, int(number.strip()[1]) / 10.0, int(number.strip()[2:]) / 100.0
    if not 0.04 <= ratio <= 0.4:
        raise MemberError("a profile's thickness, its last two digits, lies between 04 and 40 % of the chord")
    if (most > 0.0) != (place > 0.0):
        raise MemberError("a profile without camber begins with 00, one with camber names its place, such as 24")
    return most, place, ratio


def sides(number: str, x: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Upper and lower side, (places, 2) each as y and z over the chord, at x of the mean line.  Raises MemberError."""
    most, place, ratio = digits(number)
    height, slope = camber(x, most, place)
    half, turn = half_thickness(x, ratio), np.arctan(slope)
    across = np.stack([-half * np.sin(turn), half * np.cos(turn)], axis=1)
    middle = np.stack([x, height], axis=1)
    return middle + across, middle - across


def four_digit(number: str, cut: float = CUT) -> tuple[tuple[float, float], ...]:
    """Points round a 4-digit aerofoil over its chord, its trailing edge cut off at a share of it: from the nose over
    the upper side and back along the lower one.  Raises MemberError."""
    if not 0.3 <= cut <= 0.98:
        raise MemberError("a section ends between 30 % and 98 % of the chord")
    upper, lower = sides(number, cut * np.sin(np.linspace(0.0, np.pi / 2.0, HALF_POINTS)) ** 2)
    points = np.round(np.concatenate([upper, lower[:0:-1]]), 5).tolist()
    return tuple((y, z) for y, z in points)
