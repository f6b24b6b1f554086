"""Reference targets in CGATS.17 text: measured values of the printed patches."""

import re
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import lab_to_xyz
from gelvet.core.colour.spectra import reflectance_to_xyz
from gelvet.core.errors import ReferenceTargetError
from gelvet.core.formats.documents import read_text

_SPECTRAL = re.compile(r"(?:SPECTRAL_?(?:NM)?_?|NM_?|R_?)(\d{3})", re.IGNORECASE)


@dataclass(frozen=True, slots=True, kw_only=True)
class ReferenceTarget:
    """Known colours of patches: XYZ (n, 3) D50 Y = 100; spectra (n, m) 0 to 1 at `wavelengths_nm` where given."""

    ids: tuple[str, ...]
    xyz: Floats
    wavelengths_nm: Floats | None = None
    spectra: Floats | None = None

    def row(self, patch_id: str) -> int | None:
        """Where the patch stands; where none is spelled so, the one that differs in capitals alone."""
        if patch_id in self.ids:
            return self.ids.index(patch_id)
        alike = [i for i, own in enumerate(self.ids) if own.casefold() == patch_id.casefold()]
        return alike[0] if len(alike) == 1 else None


def read_reference(path: Path) -> ReferenceTarget:
    """The target in `path`; raises ReferenceTargetError."""
    return parse_reference(read_text(path, ReferenceTargetError), str(path))


def parse_reference(text: str, source: str) -> ReferenceTarget:
    """A target from CGATS text; raises ReferenceTargetError naming `source`."""
    fields = _section(text, "DATA_FORMAT", source).split()
    names = [f.upper() for f in fields]
    rows = [_split(line) for line in _section(text, "DATA", source).splitlines() if line.strip()]
    if "SAMPLE_ID" not in names and "SAMPLE_NAME" not in names:
        raise ReferenceTargetError(f"{source} has no SAMPLE_ID column; export it as CGATS with sample ids.")
    if not rows:
        raise ReferenceTargetError(f"{source} lists no patches between BEGIN_DATA and END_DATA.")
    for row in rows:
        if len(row) != len(names):
            raise ReferenceTargetError(
                f"{source} has a row of {len(row)} values under {len(names)} columns ({' '.join(row)[:40]}…); "
                "decimal commas that also part the columns cannot be told apart: export it with points."
            )
    key = names.index("SAMPLE_ID") if "SAMPLE_ID" in names else names.index("SAMPLE_NAME")
    ids = tuple(row[key].strip('"') for row in rows)
    for patch_id in ids:
        if ids.count(patch_id) > 1:
            raise ReferenceTargetError(f"{source} lists patch {patch_id} twice; keep the one that was measured.")
    return _target(ids, names, rows, source)


def _split(line: str) -> list[str]:
    return re.findall(r'"[^"]*"|[^\s;]+', line)


def _section(text: str, name: str, source: str) -> str:
    found = re.search(rf"^\s*BEGIN_{name}\s*$(.*?)^\s*END_{name}\s*$", text, re.S | re.M)
    if not found:
        raise ReferenceTargetError(f"{source} has no BEGIN_{name} … END_{name} part; export the target as CGATS.17 text.")
    return found.group(1)


def _target(ids: tuple[str, ...], names: list[str], rows: list[list[str]], source: str) -> ReferenceTarget:
    def table(columns: list[int]) -> Floats:
        return np.array([[_number(row[c], source) for c in columns] for row in rows])

    def columns(*wanted: str) -> list[int] | None:
        return [names.index(w) for w in wanted] if all(w in names for w in wanted) else None

    xyz_columns, lab_columns = columns("XYZ_X", "XYZ_Y", "XYZ_Z"), columns("LAB_L", "LAB_A", "LAB_B")
    for known in (xyz_columns, lab_columns):  # a word among the numbers is a fault even in columns that spectra outrank
        table(known or [])
    bands = [(int(m.group(1)), i) for i, n in enumerate(names) if (m := _SPECTRAL.fullmatch(n))]
    if len(bands) >= 8:
        bands.sort()
        spectra = table([i for _, i in bands])
        if spectra.max() > 2 or spectra.min() < -0.05:
            raise ReferenceTargetError(f"{source} gives reflectance beyond 0 to 1 (largest {spectra.max():g}); divide percentages by 100.")
        if spectra.max() < 0.02:
            raise ReferenceTargetError(
                f"{source} gives reflectances of {spectra.max():g} at most, darker than any target; check its units."
            )
        nm = np.array([float(w) for w, _ in bands])
        return ReferenceTarget(ids=ids, xyz=reflectance_to_xyz(spectra, nm), wavelengths_nm=nm, spectra=spectra)
    if xyz_columns:
        xyz = table(xyz_columns)
        if xyz[:, 1].max() <= 2:
            raise ReferenceTargetError(f"{source} gives XYZ on a scale of 0 to 1; multiply by 100 (Y = 100 for white).")
        if xyz.max() > 250 or xyz.min() < -1:
            raise ReferenceTargetError(f"{source} gives XYZ outside 0 to about 110; check its units (Y = 100 for white).")
        return ReferenceTarget(ids=ids, xyz=xyz)
    if lab_columns:
        lab = table(lab_columns)
        if lab[:, 0].max() <= 2 or lab[:, 0].max() > 130 or lab[:, 0].min() < -1:
            raise ReferenceTargetError(f"{source} gives L* outside 0 to 100; check its units.")
        return ReferenceTarget(ids=ids, xyz=lab_to_xyz(lab))
    raise ReferenceTargetError(f"{source} has neither spectra nor XYZ_X/Y/Z nor LAB_L/A/B columns; export one of them.")


def _number(word: str, source: str) -> float:
    """A decimal number; a comma is a decimal sign where it cannot be anything else."""
    text = word.strip('"')
    if re.fullmatch(r"[-+]?\d+,\d+(?:[eE][-+]?\d+)?", text):
        text = text.replace(",", ".")
    try:
        value = float(text)
    except ValueError as problem:
        raise ReferenceTargetError(f"{source} has {word!r} where a number belongs; export it again.") from problem
    if not np.isfinite(value):
        raise ReferenceTargetError(f"{source} has {word!r} where a number belongs; measure that patch again.")
    return value


def write_reference(target: ReferenceTarget, originator: str) -> str:
    """CGATS text of `target`: XYZ, and spectra where it has them."""
    fields = ["SAMPLE_ID", "XYZ_X", "XYZ_Y", "XYZ_Z"]
    if target.wavelengths_nm is not None:
        fields += [f"SPECTRAL_NM{w:.0f}" for w in target.wavelengths_nm]
    lines = ["CGATS.17", f'ORIGINATOR "{originator}"', f"NUMBER_OF_FIELDS {len(fields)}", "BEGIN_DATA_FORMAT",
             " ".join(fields), "END_DATA_FORMAT", f"NUMBER_OF_SETS {len(target.ids)}", "BEGIN_DATA"]  # fmt: skip
    for i, patch_id in enumerate(target.ids):
        values = [f"{v:.4f}" for v in target.xyz[i]]
        if target.spectra is not None:
            values += [f"{v:.5f}" for v in target.spectra[i]]
        lines.append(" ".join([patch_id, *values]))
    return "\n".join([*lines, "END_DATA", ""])
