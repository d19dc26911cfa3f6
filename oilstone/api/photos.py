"""Photos of any row: upload, list, look at, take away."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Form, Router
from ninja.files import UploadedFile

from circuitry.document.reading import COLLECTIONS
from circuitry.errors import UnusableInput
from oilstone.api import schemas
from oilstone.builds import models
from oilstone.builds.photos import MOST_BYTES, PROOF_PHOTOS, picture
from oilstone.builds.results import build_at

router = Router(tags=["photos"])
WITHOUT_IMAGES = ("image", "thumbnail")
MOST_STEP = 120


@router.get(
    "/builds/{build_id}/photos", response={200: list[schemas.PhotoView], 404: schemas.Problem}
)
def list_photos(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """All photos of a build, without their pixels."""
    row = get_object_or_404(models.Build, pk=build_id)
    return row.photos.defer(*WITHOUT_IMAGES)


@router.post(
    "/builds/{build_id}/photos",
    response={201: schemas.PhotoView, 404: schemas.Problem, 422: schemas.Problem},
)
def add_photo(
    request: HttpRequest,
    build_id: schemas.RowId,
    collection: Form[str],
    identity: Form[str],
    file: UploadedFile = File(...),  # noqa: B008
) -> Any:
    """Keep a photo of a thing of the build, or of a step of its proof."""
    row = get_object_or_404(models.Build, pk=build_id)
    known = collection in COLLECTIONS and identity in getattr(build_at(row), collection)
    if not known and not (collection == PROOF_PHOTOS and 0 < len(identity) <= MOST_STEP):
        raise UnusableInput("unknown-id", identity, f"The build has no “{identity}” any more.")
    taken = picture(file.read(MOST_BYTES + 1), file.name or "The file")
    photo = models.Photo.objects.create(
        build=row,
        collection=collection,
        identity=identity,
        image=taken.image,
        thumbnail=taken.thumbnail,
        width=taken.width,
        height=taken.height,
    )
    return 201, photo


@router.get("/builds/{build_id}/photos/{photo_id}", response={200: bytes, 404: schemas.Problem})
def show_photo(
    request: HttpRequest, build_id: schemas.RowId, photo_id: schemas.RowId, small: bool = False
) -> HttpResponse:
    """The photo, or its thumbnail."""
    photo = get_object_or_404(models.Photo, pk=photo_id, build_id=build_id)
    response = HttpResponse(
        bytes(photo.thumbnail if small else photo.image), content_type="image/jpeg"
    )
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


@router.delete("/builds/{build_id}/photos/{photo_id}", response={204: None, 404: schemas.Problem})
def remove_photo(request: HttpRequest, build_id: schemas.RowId, photo_id: schemas.RowId) -> Any:
    """Take a photo away."""
    get_object_or_404(models.Photo, pk=photo_id, build_id=build_id).delete()
    return 204, None
