"""Writing what is to be read in a layer as a file of captions."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from spiralis.app.session import Session
from spiralis.app.widgets.file_dialogs import ask_save
from spiralis.app.work.beside import beside
from spiralis.core.editing.captioning import captions_from
from spiralis.core.errors import SpiralisError
from spiralis.core.media.captions import write_captions

_KINDS = "SRT captions (*.srt);;WebVTT captions (*.vtt)"


def ask_captions(session: Session, parent: QWidget) -> None:
    """Ask for a file and write the words of the first chosen text layer to it, with the times at which they are read.

    They count from the first frame that plays, as in a video of the piece.
    """
    layer = next((layer for layer in session.layers if layer.has("text")), None)
    if layer is None:
        return
    path = ask_save(parent, "export", "Write captions", f"{layer.name}.srt", _KINDS)
    if path is None:
        return
    project, piece = session.project, session.composition
    try:
        # Each frame of a long piece is looked at.
        captions = beside(lambda: captions_from(project, piece, layer))
        write_captions(captions, path)
    except SpiralisError as error:
        session.failed.emit(str(error))
        return
    told = "one caption" if len(captions) == 1 else f"{len(captions)} captions"
    session.said.emit(f"Wrote {path.name}: {told}.")
