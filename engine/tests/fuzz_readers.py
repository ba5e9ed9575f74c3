"""Coverage-guided fuzzing of the readers: ``python tests/fuzz_readers.py FOLDER -max_total_time=60``.

The folder takes the inputs that reached new code; ``python tests/fuzz_readers.py --keep FOLDER`` packs those that are
small into ``readers_corpus.zip``, which ``test_corpus.py`` runs every time.
"""

import sys
import zipfile
from pathlib import Path

CORPUS = Path(__file__).with_name("readers_corpus.zip")
MOST_BYTES = 3000


def one(data: bytes) -> None:
    """A file ends in a finite solid or in words; anything else is a defect."""
    import numpy as np

    from hewel_engine.errors import InputError
    from hewel_engine.io.reading import take_in

    if data[:400].lstrip().lower().startswith(b"iso-10303"):
        return  # its library runs in a process of its own
    try:
        got = take_in(data)
    except InputError as error:
        if not all(error.as_dict().values()):
            raise
    else:
        assert len(got.mesh.faces) and np.isfinite(got.mesh.vertices).all()


def keep(folder: Path) -> None:
    with zipfile.ZipFile(CORPUS, "w", zipfile.ZIP_DEFLATED) as out:
        for file in sorted(folder.iterdir()):
            if file.stat().st_size <= MOST_BYTES:
                out.writestr(zipfile.ZipInfo(file.name), file.read_bytes(), zipfile.ZIP_DEFLATED)


def main() -> None:
    if sys.argv[1:2] == ["--keep"]:
        keep(Path(sys.argv[2]))
        return
    import atheris

    import hewel_engine.geometry.distinct

    with atheris.instrument_imports(include=["hewel_engine.io", "hewel_engine.geometry.mending"]):
        import hewel_engine.io.reading  # noqa: F401
    atheris.Setup(sys.argv, one)
    atheris.Fuzz()


if __name__ == "__main__":
    main()
