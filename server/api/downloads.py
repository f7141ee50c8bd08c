"""Files as answers."""

from django.core.files.storage import default_storage
from django.http import FileResponse


class Download(FileResponse):
    """Sends a file in large pieces: each goes from a thread to the web server's loop."""

    block_size = 1 << 18


def stored_for_ever(path: str) -> Download:
    """A blob that never changes: whoever has it need not ask again."""
    answer = Download(default_storage.open(path), content_type="application/octet-stream")
    answer["Cache-Control"] = "private, max-age=31536000, immutable"
    return answer
