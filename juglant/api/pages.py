"""The built interface, as files."""

from contextlib import suppress
from pathlib import Path

from starlette.exceptions import HTTPException
from starlette.responses import Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

from juglant.api.problems import problem

# No file of the page has a longer name.
_LONGEST_PATH = 400
PAGES = Path(__file__).parents[1] / "pages"


class Pages(StaticFiles):
    """The built interface. What has no file of its own is a place within the page."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        """A file, the page, or a problem."""
        if path.startswith("api/") or len(path) > _LONGEST_PATH or not path.isprintable():
            return problem(404, "There is nothing at this address.", "not-found")
        if scope["method"] not in ("GET", "HEAD"):
            return problem(405, "This address can only be read.", "http")
        with suppress(HTTPException):
            found = await super().get_response(path, scope)
            if path.startswith("assets/"):
                found.headers["Cache-Control"] = "public, max-age=31536000, immutable"
            return found
        try:
            page = await super().get_response("index.html", scope)
        except HTTPException:
            return Response("The interface is not built yet: run make run.", 503, media_type="text/plain")
        page.headers["Cache-Control"] = "no-cache"
        return page
