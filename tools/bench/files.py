"""Reading and saving files."""

import os
import tempfile
from pathlib import Path

import numpy as np

import wild_heron as wh
from wild_heron.files.decode.pixels import read_pixels
from wild_heron.files.decode.source import on_disk

from .loops import many_keys
from .measuring import ms, paired, report


def reading() -> None:
    """A hundred pictures brought in and read in full, by way of the reader process, and right here."""
    from concurrent.futures import ThreadPoolExecutor

    from PIL import Image

    from wild_heron.files.decode.images import probe
    from wild_heron.files.importing import bring
    from wild_heron.files.reader import Reader

    with tempfile.TemporaryDirectory() as name, Reader(2) as reader, ThreadPoolExecutor(2) as readers:
        folder = Path(name)
        rng = np.random.default_rng(3)
        rough = Image.fromarray(rng.integers(0, 255, (30, 40, 4), np.uint8)).resize((800, 600))
        paths = [folder / f"picture {k:03}.png" for k in range(100)]
        rough.save(paths[0], compress_level=1)
        for path in paths[1:]:
            path.write_bytes(paths[0].read_bytes())
        found = bring(paths, folder, wh.Settings(), reader, "picture").proposals
        nodes = [each.node for each in found]

        def ours() -> None:
            bring(paths, folder, wh.Settings(), reader, "picture")
            jobs = zip(nodes, paths, strict=True)
            list(readers.map(lambda job: reader.pixels(job[0], job[1], 1.0, 8192).pixels.shape, jobs))

        def theirs() -> None:
            for path in paths:
                probe(on_disk(path))
            jobs = zip(nodes, paths, strict=True)
            list(readers.map(lambda job: read_pixels(job[0], on_disk(job[1]), 1.0, 8192).pixels.shape, jobs))

        a, b = paired(ours, theirs, 5)
    report("100 pictures brought in and read in full", ms(a), f"in this process {ms(b)}", a / b, 1.15)


def saving() -> None:
    """A save beside writing as much, flushing it and renaming it over the old file."""
    from wild_heron.files.project import encode

    scene = many_keys()
    with tempfile.TemporaryDirectory() as name:
        path, other = Path(name) / "s.heron", Path(name) / "t.heron"

        def plain() -> None:
            data = encode(scene)
            with (Path(name) / "partial").open("wb") as out:
                out.write(data)
                out.flush()
                os.fsync(out.fileno())
            os.replace(Path(name) / "partial", other)

        a, b = paired(lambda: wh.save(scene, path), plain, 9)
    report("Saving 40,000 keys", ms(a), f"encoded, written and renamed {ms(b)}", a / b, 1.2)
