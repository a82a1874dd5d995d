"""What the demo's faces wear and stand in, drawn by code: a painted mask, shells and salt, glasses, lanterns, turning rings, and
a boathouse from inside."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.face.charts import UPPER_LIDS
from sunglaze.core.face.model import RINGS, face_mesh
from sunglaze.core.material.files import encode_webp
from sunglaze.core.material.reels import made
from sunglaze.core.material.sequence import Sequence

Bytes = NDArray[np.uint8]
Places = NDArray[np.float64]
_FINER = 3


class Sheet:
    """A clear picture that is drawn on by shapes with soft edges. Places are in pixels of the finished picture."""

    def __init__(self, width: int, height: int) -> None:
        self.size = width, height
        self.pixels = np.zeros((height * _FINER, width * _FINER, 4), np.float32)

    def polygon(self, places: Places, rgb: tuple[int, int, int], much: float = 1.0, soft: float = 0.0) -> None:
        """A filled shape."""
        self._lay([places], 0.0, rgb, much, soft)

    def line(self, places: Places, wide: float, rgb: tuple[int, int, int], much: float = 1.0, soft: float = 0.0) -> None:
        """A line through places."""
        self._lay([places], wide, rgb, much, soft)

    def lines(self, all_of: list[Places], wide: float, rgb: tuple[int, int, int], much: float = 1.0, soft: float = 0.0) -> None:
        """Lines that are one where they cross."""
        self._lay(all_of, wide, rgb, much, soft)

    def _lay(self, all_of: list[Places], wide: float, rgb: tuple[int, int, int], much: float, soft: float) -> None:
        """A colour over what is there: inside of the places, or along them where it is so wide."""
        finer = [np.asarray(places, np.float64) * _FINER for places in all_of]
        around = (wide + 3 * soft + 2) * _FINER
        rows, columns = self.pixels.shape[:2]
        low, high = np.min([one.min(axis=0) for one in finer], axis=0), np.max([one.max(axis=0) for one in finer], axis=0)
        left, top = np.clip(np.floor(low - around), 0, (columns, rows)).astype(int)
        right, bottom = np.clip(np.ceil(high + around), 0, (columns, rows)).astype(int)
        if right <= left or bottom <= top:
            return
        mask = np.zeros((bottom - top, right - left), np.float32)
        fixed = [np.rint((places - (left, top)) * 16).astype(np.int32) for places in finer]
        if wide:
            cv2.polylines(mask, fixed, False, 1.0, max(1, round(wide * _FINER)), cv2.LINE_AA, 4)
        else:
            cv2.fillPoly(mask, fixed, 1.0, cv2.LINE_AA, 4)
        if soft:
            mask = np.asarray(cv2.GaussianBlur(mask, (0, 0), soft * _FINER))
        alpha = np.clip(mask, 0, 1)[..., None] * np.float32(much)
        here = self.pixels[top:bottom, left:right]
        here *= 1 - alpha
        here += alpha * np.array([*(part / 255 for part in rgb), 1.0], np.float32)

    def oval(
        self,
        middle: tuple[float, float],
        radii: tuple[float, float],
        rgb: tuple[int, int, int],
        much: float = 1.0,
        soft: float = 0.0,
    ) -> None:
        """A filled oval."""
        turn = np.linspace(0, 2 * math.pi, 120)
        self.polygon(
            np.stack([middle[0] + radii[0] * np.cos(turn), middle[1] + radii[1] * np.sin(turn)], axis=1), rgb, much, soft
        )

    def finished(self) -> Bytes:
        """The picture (height, width, 4), not premultiplied."""
        small = cv2.resize(self.pixels, self.size, interpolation=cv2.INTER_AREA)
        alpha = small[..., 3:]
        colour = np.divide(small[..., :3], alpha, out=np.zeros_like(small[..., :3]), where=alpha > 1e-4)
        return np.rint(np.clip(np.concatenate([colour, alpha], axis=2), 0, 1) * 255).astype(np.uint8)


def _ring_of(name: str, side: int, by: float = 1.0) -> Places:
    """A ring of the face's points in its texture, pixels, larger about its middle."""
    places = face_mesh().places[list(RINGS[name])] * side
    middle = places.mean(axis=0)
    return np.asarray(middle + (places - middle) * by)


def tide_mask() -> Bytes:
    """A painted mask on the template of the face: white as salt, with black lines of tides about the eyes."""
    side = 1024
    sheet = Sheet(side, side)
    sheet.polygon(_ring_of("oval", side, 0.965), (244, 243, 238), 0.93, 9)
    for n in range(7):
        # Lines that swing from the temples over the cheeks, thicker towards the ears.
        for mirrored in (False, True):
            t = np.linspace(0, 1, 60)
            x = 40 + 400 * t
            y = 300 + 86 * n + (150 - 30 * n) * (1 - t) ** 2 + 34 * np.sin(t * 5.2 + n * 0.9)
            wide = 20 * (1 - t) ** 0.8 + 2.5
            places = np.stack([side - x if mirrored else x, y], axis=1)
            for k in range(len(t) - 1):
                sheet.line(places[k : k + 2], float(wide[k]), (20, 20, 24), 0.96)
    for eye, side_name in (("left eye", "left"), ("right eye", "right")):
        sheet.polygon(_ring_of(eye, side, 1.95), (16, 16, 20), 0.97, 4)
        corner = face_mesh().places[UPPER_LIDS[side_name][0]] * side
        way = -1 if side_name == "left" else 1
        sheet.polygon(corner + np.array([[0, -30], [way * 120, -74], [way * 34, 14]]), (16, 16, 20), 0.97, 3)
        tear = np.add(_ring_of(eye, side).mean(axis=0), (0, 40))
        sheet.polygon(tear + np.array([[-15, 0], [15, 0], [5, 120], [0, 150], [-5, 120]]), (16, 16, 20), 0.95, 2)
    sheet.polygon(_ring_of("lips", side, 1.02), (18, 17, 20), 0.97, 2)
    sheet.oval((side / 2, 170), (26, 60), (18, 18, 22), 0.96, 2)
    return sheet.finished()


def net() -> Bytes:
    """A fine net over the template of the face, knotted, with a line of corks along the brow: it asks for smaller copies when its
    wearer steps back."""
    side, mesh = 1024, 30
    sheet = Sheet(side, side)
    cord, shade = (92, 150, 148), (16, 34, 42)
    for rising in (1.0, -1.0):
        cords = []
        for n in range(-side // mesh, 2 * side // mesh):
            t = np.linspace(0, 1, 40)
            # Meshes sag between the knots.
            x, y = n * mesh + rising * t * side * 0.62, t * side + 5 * np.sin(t * math.pi * 2 * side / mesh)
            cords.append(np.stack([x if rising > 0 else x + 0.62 * side, y], axis=1))
        sheet.lines([np.add(places, (2, 3)) for places in cords], 4.0, shade, 0.5, 1.5)
        sheet.lines(cords, 3.2, cord, 0.95)
    rim = _ring_of("oval", side, 0.93)
    inside = np.zeros((side, side), np.float32)
    cv2.fillPoly(inside, [np.rint(rim * 16).astype(np.int32)], 1.0, cv2.LINE_AA, 4)
    for name in ("left eye", "right eye", "lips"):
        hole = _ring_of(name, side, 1.5 if name == "lips" else 1.9)
        cv2.fillPoly(inside, [np.rint(hole * 16).astype(np.int32)], 0.0, cv2.LINE_AA, 4)
    sheet.pixels *= cv2.resize(cv2.GaussianBlur(inside, (0, 0), 5), None, fx=_FINER, fy=_FINER)[..., None]
    for k in range(15):
        across = (k - 7) / 7
        middle = (side / 2 + across * 370, 150 + 140 * across * across)
        sheet.oval((middle[0] + 3, middle[1] + 5), (21, 17), (30, 20, 14), 0.5, 5)
        sheet.oval(middle, (20, 16), (196, 120, 66), 1.0, 1)
        sheet.oval((middle[0] - 6, middle[1] - 5), (8, 5), (238, 186, 132), 0.8, 3)
    return sheet.finished()


def shell() -> Bytes:
    """A scallop, rose and cream."""
    sheet = Sheet(256, 240)
    fan = np.linspace(math.radians(200), math.radians(340), 90)
    rim = np.stack([128 + (112 + 5 * np.cos(fan * 26)) * np.cos(fan), 208 + (196 + 6 * np.cos(fan * 26)) * np.sin(fan)], axis=1)
    outline = np.concatenate([rim, [[152, 214], [104, 214]]])
    sheet.polygon(outline, (226, 150, 132))
    for n in range(11):
        turn = math.radians(206 + 12.8 * n)
        tip = np.array([128 + 108 * math.cos(turn), 208 + 190 * math.sin(turn)])
        sheet.line(np.array([[128, 212], tip]), 6, (250, 224, 204), 0.75, 1.6)
    for share in (0.45, 0.68, 0.86):
        arc = np.stack([128 + 112 * share * np.cos(fan), 208 + 196 * share * np.sin(fan)], axis=1)
        sheet.line(arc, 4, (190, 104, 96), 0.35, 2)
    sheet.polygon(np.array([[92, 206], [164, 206], [176, 232], [80, 232]]), (238, 190, 168))
    sheet.oval((104, 90), (30, 40), (255, 246, 232), 0.35, 12)
    return sheet.finished()


def salt() -> Sequence:
    """A crystal of salt that catches the light in turn, a second a round."""
    pictures = []
    for n in range(12):
        sheet = Sheet(160, 160)
        faces = [
            ((80, 12), (132, 58), (80, 74)),
            ((80, 12), (80, 74), (28, 58)),
            ((28, 58), (80, 74), (80, 148)),
            ((132, 58), (80, 148), (80, 74)),
        ]
        for k, three in enumerate(faces):
            light = 0.5 + 0.5 * math.cos(2 * math.pi * (n / 12 - k / 4))
            tone = tuple(round(150 + 90 * light + shift) for shift in (0, 8, 14))
            sheet.polygon(np.array(three, np.float64), (tone[0], min(tone[1], 255), min(tone[2], 255)), 0.9)
        glint = max(0.0, math.cos(2 * math.pi * n / 12)) ** 6
        for turn in (0, 90):
            way = np.array([math.cos(math.radians(turn + 20)), math.sin(math.radians(turn + 20))])
            sheet.line(np.array([[62, 44] - way * 44 * glint, [62, 44] + way * 44 * glint]), 3, (255, 255, 255), glint, 1)
        pictures.append(sheet.finished())
    return made([encode_webp(one, None) for one in pictures], 12.0)


def glasses() -> Bytes:
    """Round glasses of amber horn, their glass a little smoked."""
    sheet = Sheet(900, 340)
    for middle in (240.0, 660.0):
        sheet.oval((middle, 180), (150, 138), (70, 52, 30), 0.38)
        sheet.oval((middle - 50, 118), (52, 30), (255, 250, 238), 0.22, 14)
        turn = np.linspace(0, 2 * math.pi, 140)
        frame = np.stack([middle + 156 * np.cos(turn), 180 + 144 * np.sin(turn)], axis=1)
        sheet.line(frame, 24, (112, 58, 20))
        sheet.line(frame - 4, 7, (214, 142, 66), 0.8, 1.5)
    bridge = np.linspace(math.radians(205), math.radians(335), 30)
    sheet.line(np.stack([450 + 62 * np.cos(bridge), 190 + 62 * np.sin(bridge)], axis=1), 22, (112, 58, 20))
    for outer, edge in ((84.0, 8.0), (816.0, 892.0)):
        sheet.line(np.array([[outer, 150], [edge, 128]]), 22, (112, 58, 20))
    return sheet.finished()


def lantern() -> Bytes:
    """A small paper lantern on a thread, lit."""
    sheet = Sheet(150, 360)
    sheet.line(np.array([[75, 0], [75, 118]]), 4, (60, 46, 34))
    sheet.oval((75, 220), (74, 100), (255, 190, 92), 0.35, 22)
    sheet.oval((75, 220), (54, 82), (240, 122, 46))
    sheet.oval((75, 224), (34, 60), (255, 214, 120), 0.85, 14)
    for share in (-0.6, -0.3, 0.0, 0.3, 0.6):
        wide = 54 * math.sqrt(1 - share * share)
        arc = np.linspace(0, math.pi, 30)
        sheet.line(np.stack([75 - wide * np.cos(arc), 220 + 82 * share + 6 * np.sin(arc)], axis=1), 3, (150, 60, 20), 0.55)
    for top in (134, 300):
        sheet.polygon(np.array([[50, top], [100, top], [94, top + 12], [56, top + 12]], np.float64), (70, 44, 30))
    return sheet.finished()


def ring(ticks: int, colour: tuple[int, int, int], radius: float, wide: float, backwards: bool = False) -> Sequence:
    """A ring of a compass that turns on by one of its marks in two seconds, and so without an end."""
    pictures = []
    for n in range(24):
        sheet = Sheet(360, 360)
        turn = np.linspace(0, 2 * math.pi, 200)
        for far, thick in ((radius, 3.0), (radius - wide, 2.0)):
            sheet.line(np.stack([180 + far * np.cos(turn), 180 + far * np.sin(turn)], axis=1), thick, colour, 0.9)
        at = 2 * math.pi * (np.arange(ticks) + (-n if backwards else n) / 24) / ticks
        ways = np.stack([np.cos(at), np.sin(at)], axis=1)
        marks = [np.array([180 + way * radius, 180 + way * (radius - wide)]) for way in ways]
        sheet.lines(marks[::3], 9, colour, 0.9)
        sheet.lines([mark for k, mark in enumerate(marks) if k % 3], 4, colour, 0.9)
        pictures.append(sheet.finished())
    return made([encode_webp(one, 70) for one in pictures], 12.0)


def boathouse() -> Bytes:
    """A boathouse from inside, looked at along its planks: the far wall two fifths as large as the picture, open to the sea."""
    width, height = 900, 1400
    rng = np.random.default_rng(21)
    sheet = Sheet(width, height)
    point, share = np.array([0.5 * width, 0.45 * height]), 0.4

    def at(x: float, y: float, far: float) -> Places:
        """A place on the frame (0 to 1) moved so far towards the far wall (0 to 1)."""
        place = np.array([x * width, y * height])
        depth = far * (1 / share - 1)
        return np.asarray(point + (place - point) / (1 + depth))

    def plank(ends: list[tuple[float, float]], tone: tuple[int, int, int], much: float) -> None:
        (ax, ay), (bx, by) = ends
        for k in range(14):
            near, far = k / 14, (k + 1) / 14
            shade = (1 - 0.55 * far) * much
            rgb = tuple(round(part * shade) for part in tone)
            sheet.polygon(
                np.array([at(ax, ay, near), at(bx, by, near), at(bx, by, far), at(ax, ay, far)]), (rgb[0], rgb[1], rgb[2])
            )

    for n in range(12):
        low, high = n / 12, (n + 1) / 12
        plank([(low, 1.0), (high, 1.0)], (150, 108, 72), rng.uniform(0.8, 1.05))
        plank([(low, 0.0), (high, 0.0)], (92, 66, 50), rng.uniform(0.75, 1.0))
        plank([(0.0, low), (0.0, high)], (128, 92, 66), rng.uniform(0.8, 1.05))
        plank([(1.0, low), (1.0, high)], (118, 86, 62), rng.uniform(0.8, 1.05))
    for n in range(13):
        for x, y in ((n / 12, 1.0), (n / 12, 0.0), (0.0, n / 12), (1.0, n / 12)):
            sheet.line(np.array([at(x, y, 0.0), at(x, y, 1.0)]), 3, (44, 30, 22), 0.7)
    wall = np.array([at(0, 0, 1), at(1, 0, 1), at(1, 1, 1), at(0, 1, 1)])
    sheet.polygon(wall, (84, 60, 46))
    left, right, top, bottom = wall[0, 0] + 40, wall[1, 0] - 40, wall[0, 1] + 60, wall[2, 1]
    for k in range(60):
        share_down = k / 60
        row = top + (bottom - top) * share_down
        sky = share_down < 0.62
        tone = (250 - 50 * share_down, 214 - 20 * share_down, 170 + 60 * share_down) if sky else (70, 132, 142)
        band = np.array([[left, row], [right, row], [right, row + (bottom - top) / 58], [left, row + (bottom - top) / 58]])
        sheet.polygon(band, (round(tone[0]), round(tone[1]), round(tone[2])))
    sheet.oval(((left + right) / 2, top + (bottom - top) * 0.52), (36, 36), (255, 240, 200), 0.95, 3)
    for depth in (0.0, 0.28, 0.56, 0.84):
        beam = np.array([at(0, 1, depth), at(0, 0, depth), at(1, 0, depth), at(1, 1, depth)])
        sheet.line(beam, 34 / (1 + depth * (1 / share - 1)), (58, 40, 30))
    for x, depth in ((0.0, 0.4), (1.0, 0.62), (0.0, 0.75)):
        hook = at(x, 0.32, depth)
        size = 60 / (1 + depth * 1.5)
        sheet.oval(
            (float(hook[0]) + (size if x == 0 else -size), float(hook[1])),
            (size * 1.8, size * 1.8),
            (255, 190, 100),
            0.3,
            size * 0.6,
        )
        sheet.oval((float(hook[0]) + (size if x == 0 else -size), float(hook[1])), (size * 0.42, size * 0.6), (255, 208, 128))
    return sheet.finished()[..., :3].copy()
