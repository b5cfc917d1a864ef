"""What routers need of the application."""

from typing import Annotated

from fastapi import Depends, Request

from ripe_press.studio.studio import Studio


def studio_of(request: Request) -> Studio:
    """The studio that the application was made with."""
    studio = request.app.state.studio
    assert isinstance(studio, Studio)  # noqa: S101 - wiring, not input
    return studio


TheStudio = Annotated[Studio, Depends(studio_of)]
