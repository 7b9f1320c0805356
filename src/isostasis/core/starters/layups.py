"""Ready lay-ups, by what a spot should become: lifts as a document has them, bottom up, without ids."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

LiftData = dict[str, Any]
SKIN_MM = 3.0


@dataclass(frozen=True, slots=True)
class ReadyLayup:
    """A lay-up ready to be laid: what it becomes, how, and its lifts; `hollow`: it wants one to pour into."""

    id: str
    title: str
    words: str
    lifts: tuple[tuple[str, LiftData], ...]  # what an id ends in, the lift
    hollow: bool = False

    def laid(self, stem: str, **water: float) -> list[LiftData]:
        """The lifts under ids that begin with `stem`; a pour gets the `level_mm` or `depth_mm` given."""
        return [
            {"id": f"{stem}-{end}", **lift, **(water if lift["kind"] == "pour" else {})} for end, lift in self.lifts
        ]


def _skin(mix: str = "paper-plaster", depth_mm: float = SKIN_MM, **more: Any) -> tuple[str, LiftData]:
    return "skin", {"kind": "skin", "mix": mix, "depth_mm": depth_mm, **more}


def _coat(end: str, material: str, coats: int = 1, **more: Any) -> tuple[str, LiftData]:
    return end, {"kind": "coat", "material": material, "coats": coats, **more}


def _strewn(mix: str, depth_mm: float, **more: Any) -> tuple[str, LiftData]:
    return "strewn", {"kind": "texture", "mix": mix, "depth_mm": depth_mm, **more}


_FIX = "fix", {"kind": "fix", "mix": "glue-water-1-1", "wetting": "alcohol-water-1-1"}
_SEAL = _coat("seal", "acrylic-sealer", 2)


def _water(mix: str, drops: float) -> tuple[str, LiftData]:
    tint = [{"material": "acrylic-ink-teal", "drops_per_100_ml": drops}] if drops else []
    return "water", {"kind": "pour", "mix": mix, "tint": tint}


def pond(
    mix: str = "casting-resin", drops: float = 1.0, skin: str = "paper-plaster", skin_mm: float = SKIN_MM
) -> ReadyLayup:
    """Water over a dark bed, of a resin with N drops of teal in 100 ml."""
    lifts = (_skin(skin, skin_mm), _coat("tone", "paint-teal"), _SEAL, _water(mix, drops))
    about = f"skin, a dark bed, sealed twice, {'tinted' if drops else 'clear'} resin"
    return ReadyLayup("pond", "Pond on foam", about, lifts, hollow=True)


GRASS = ReadyLayup(
    "grass", "Grass bed", "skin, earth colour, soil, flock on top",
    (
        _skin(), _coat("earth", "paint-earth"),
        ("soil", {"kind": "texture", "mix": "sifted-soil", "depth_mm": 1.0, "cover": 0.6}), _FIX,
        ("grass", {"kind": "texture", "mix": "flock", "depth_mm": 0.5, "cover": 0.7, "school": "onto-glue"}),
    ),
)  # fmt: skip
EARTH = ReadyLayup(
    "earth", "Bare earth", "skin, earth colour, sifted soil",
    (_skin(), _coat("earth", "paint-earth"), _strewn("sifted-soil", 1.0, cover=0.8), _FIX),
)  # fmt: skip
CLOTH_HILL = ReadyLayup(
    "cloth-hill", "Cloth hill", "two layers of cloth, skin, earth colour, soil",
    (
        ("shell", {"kind": "shell", "material": "plaster-cloth", "layers": 2}), _skin("plaster-2-3", 2.0),
        _coat("earth", "paint-earth"), _strewn("sifted-soil", 1.0, cover=0.6), _FIX,
    ),
)  # fmt: skip
STONY_BANK = ReadyLayup(
    "stony-bank", "Stony bank", "a stiff skin, slate colour, scree, lights brushed on",
    (
        _skin(depth_mm=4.0, consistency="cliff"), _coat("slate", "paint-slate", 2),
        _strewn("slate-scree", 3.0, cover=0.3, school="glue-twice"), _FIX,
        _coat("lights", "paint-white", how="drybrush"),
    ),
)  # fmt: skip
DIRT_ROAD = ReadyLayup(
    "dirt-road", "Dirt road", "a level skin, sand colour, fines",
    (_skin("plaster-2-3", 2.0), _coat("sand", "paint-sand"), _strewn("quarry-dust", 0.5, cover=0.6), _FIX),
)  # fmt: skip
SNOW = ReadyLayup(
    "snow", "Snow", "a white skin, snow strewn in thin layers",
    (_skin("plaster-2-3"), _coat("white", "paint-white"), _strewn("snow", 1.0, cover=0.8), _FIX),
)  # fmt: skip
WET_MUD = ReadyLayup(
    "wet-mud", "Wet mud", "soil and glue, laid rough, then varnish",
    (_skin("soil-paste", 2.0), _coat("wet", "gloss-varnish", 2)),
)  # fmt: skip
FALL = ReadyLayup(
    "fall", "Falling water", "a stiff skin, slate colour, sealed, gel stippled on",
    (
        _skin(depth_mm=2.0, consistency="cliff"), _coat("slate", "paint-slate"), _SEAL,
        ("gel", {"kind": "coat", "mix": "clear-gel", "coats": 3}),
    ),
)  # fmt: skip
FLOODED_BED = ReadyLayup(
    "flooded-bed", "Flooded bed", "skin, earth colour, soil, sealed twice, tinted resin",
    (*EARTH.lifts, _SEAL, _water("casting-resin", 3.0)), hollow=True,
)  # fmt: skip
READY: tuple[ReadyLayup, ...] = (pond(), GRASS, EARTH, CLOTH_HILL, STONY_BANK, DIRT_ROAD, SNOW, WET_MUD, FALL)


def ready(layup_id: str) -> ReadyLayup | None:
    """The ready lay-up of that id."""
    return next((one for one in READY if one.id == layup_id), None)
