"""Files as answers."""

from django.http import FileResponse


class Download(FileResponse):
    """Sends a file in large pieces: each goes from a thread to the web server's loop."""

    block_size = 1 << 18
