"""The tables. Times are UTC; scene documents, edits and trace inputs are JSON texts of the core's models."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import BigInteger, Boolean, DateTime, Float, ForeignKey, Index, Integer, String, Text
from sqlalchemy.dialects.mysql import DATETIME, LONGBLOB, LONGTEXT
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

Moment = DateTime().with_variant(DATETIME(fsp=3), "mysql", "mariadb")
Bytes = LONGBLOB
Json = LONGTEXT


def utc_now() -> datetime:
    """The present moment as the database keeps it: UTC without a zone mark."""
    return datetime.now(UTC).replace(tzinfo=None)


class Base(DeclarativeBase):
    pass


class Blob(Base):
    """An immutable binary, named by its content."""

    __tablename__ = "blob"
    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    size: Mapped[int] = mapped_column(BigInteger)
    media_type: Mapped[str] = mapped_column(String(64))
    created: Mapped[datetime] = mapped_column(Moment, default=utc_now)


class BlobChunk(Base):
    __tablename__ = "blob_chunk"
    sha256: Mapped[str] = mapped_column(ForeignKey("blob.sha256", ondelete="CASCADE"), primary_key=True)
    seq: Mapped[int] = mapped_column(Integer, primary_key=True)
    data: Mapped[bytes] = mapped_column(Bytes)


class ModelRevision(Base):
    """One state of a model: its manifest (an Assembly) and the file that it came from."""

    __tablename__ = "model_revision"
    id: Mapped[str] = mapped_column(String(16), primary_key=True)
    file_name: Mapped[str] = mapped_column(String(255))
    manifest: Mapped[str] = mapped_column(ForeignKey("blob.sha256"))
    source: Mapped[str | None] = mapped_column(ForeignKey("blob.sha256"))
    """None for a piece made in place."""
    parent: Mapped[str | None] = mapped_column(String(16))
    """The revision that this one was made from: tessellated anew, or replaced."""
    created: Mapped[datetime] = mapped_column(Moment, default=utc_now)


class Review(Base):
    __tablename__ = "review"
    id: Mapped[str] = mapped_column(String(16), primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    revision: Mapped[str] = mapped_column(ForeignKey("model_revision.id"))
    seq: Mapped[int] = mapped_column(Integer, default=0)
    scene: Mapped[str] = mapped_column(Json)
    pulse: Mapped[int] = mapped_column(Integer, default=0)
    """Raised with anything a watching browser should fetch again, but for what is about stills alone."""
    still_pulse: Mapped[int] = mapped_column(Integer, default=0)
    """Raised with anything about its stills: several times a second while one is traced."""
    cover: Mapped[str | None] = mapped_column(ForeignKey("blob.sha256"))
    created: Mapped[datetime] = mapped_column(Moment, default=utc_now)
    updated: Mapped[datetime] = mapped_column(Moment, default=utc_now)
    removed: Mapped[datetime | None] = mapped_column(Moment)


class SceneVersion(Base):
    """One edit, its inverse, and where undo and redo stand with it."""

    __tablename__ = "scene_version"
    __table_args__ = (Index("ix_scene_version_standing", "review_id", "standing", "seq"),)
    review_id: Mapped[str] = mapped_column(ForeignKey("review.id", ondelete="CASCADE"), primary_key=True)
    seq: Mapped[int] = mapped_column(Integer, primary_key=True)
    kind: Mapped[str] = mapped_column(String(8))
    """edit, undo or redo"""
    state: Mapped[str] = mapped_column("standing", String(8), default="live")
    """of an edit: live, undone, or dropped (undone, then overtaken by a new edit)"""
    edit: Mapped[str] = mapped_column(Json)
    inverse: Mapped[str] = mapped_column(Json)
    snapshot: Mapped[str | None] = mapped_column(Json)
    words: Mapped[str] = mapped_column(String(200), default="")
    """What an edit did; empty for those of earlier versions."""
    made: Mapped[datetime | None] = mapped_column(Moment, default=utc_now)
    """Null for those of earlier versions."""
    tab: Mapped[str | None] = mapped_column(String(40))
    """The browser tab that made it."""
    created: Mapped[datetime] = mapped_column(Moment, default=utc_now)


class IntakeRun(Base):
    __tablename__ = "intake_run"
    __table_args__ = (Index("ix_intake_run_work", "state", "created"),)
    id: Mapped[str] = mapped_column(String(16), primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    file_name: Mapped[str] = mapped_column(String(255))
    source: Mapped[str | None] = mapped_column(ForeignKey("blob.sha256"))
    """None where no file is read: a new tessellation of exact shapes that are kept."""
    quality: Mapped[str] = mapped_column(String(8))
    unit: Mapped[str] = mapped_column(String(12), default="as written", server_default="as written")
    up: Mapped[str] = mapped_column(String(12), default="as written", server_default="as written")
    state: Mapped[str] = mapped_column(String(8), default="queued")
    """queued, running, ready (found something, waits to be accepted), done, failed, stopped"""
    purpose: Mapped[str] = mapped_column(String(12), default="review", server_default="review")
    """review, add, replace or tessellate; all but the first are for `review_id`"""
    ask: Mapped[bool] = mapped_column(Boolean, default=False, server_default="0")
    """Stop as ready and let a person look before the review is made."""
    model: Mapped[str | None] = mapped_column(String(32))
    """Of the review: what is replaced or tessellated."""
    options: Mapped[str | None] = mapped_column(Json)
    """Of a tessellation: what is asked, by definition; of a reading: what it is read with; as JSON."""
    revision: Mapped[str | None] = mapped_column(String(16))
    """What was found."""
    file_state: Mapped[str | None] = mapped_column(String(64))
    """Of a followed file: size and time of the state that was read."""
    report: Mapped[str | None] = mapped_column(Json)
    """Of a replacement: the pairs of parts, as JSON."""
    progress: Mapped[float] = mapped_column(Float, default=0.0)
    stage: Mapped[str] = mapped_column(String(120), default="waiting")
    message: Mapped[str | None] = mapped_column(Text)
    review_id: Mapped[str | None] = mapped_column(String(16))
    attempt: Mapped[int] = mapped_column(Integer, default=0)
    lease: Mapped[datetime | None] = mapped_column(Moment)
    created: Mapped[datetime] = mapped_column(Moment, default=utc_now)


class Still(Base):
    """One traced picture with all its inputs. The row is the truth; the farm only works for it."""

    __tablename__ = "still"
    __table_args__ = (
        Index("ix_still_work", "state", "created"),
        Index("ix_still_review", "review_id", "created"),
        Index("ix_still_light", "review_id", "light_key"),
    )
    id: Mapped[str] = mapped_column(String(16), primary_key=True)
    review_id: Mapped[str] = mapped_column(ForeignKey("review.id", ondelete="CASCADE"))
    shot_id: Mapped[str] = mapped_column(String(32))
    name: Mapped[str] = mapped_column(String(120))
    is_cover: Mapped[bool] = mapped_column(Boolean, default=False)
    """Made for the list of reviews, not shown among the stills."""
    inputs: Mapped[str] = mapped_column(Json)
    fingerprint: Mapped[str] = mapped_column(String(64))
    engine: Mapped[str] = mapped_column(String(32))
    quality: Mapped[str] = mapped_column(String(8))
    width: Mapped[int] = mapped_column(Integer)
    height: Mapped[int] = mapped_column(Integer)
    samples: Mapped[int] = mapped_column(Integer)
    exposure: Mapped[float] = mapped_column(Float)
    white: Mapped[float] = mapped_column(Float, default=6504.0, server_default="6504")
    """K."""
    tone: Mapped[str] = mapped_column(String(16))
    state: Mapped[str] = mapped_column(String(8), default="queued")
    """queued, running, paused, done, stopped, failed"""
    done: Mapped[float] = mapped_column(Float, default=0.0)
    """Share of all pixel samples, 0..1."""
    grain: Mapped[float | None] = mapped_column(Float)
    """Measured so far, relative; before denoising."""
    grain_asked: Mapped[float | None] = mapped_column(Float)
    """Trace until the grain is this small; `samples` is then what it is expected to take."""
    minutes_asked: Mapped[float | None] = mapped_column(Float)
    """Trace for so long; `samples` is then how far that is expected to lead."""
    ends_now: Mapped[bool] = mapped_column(Boolean, default=False, server_default="0")
    """It is to be finished with the samples it has, or was."""
    readings: Mapped[str | None] = mapped_column(Text)
    """Of the grain meter, as JSON, for an attempt that goes on."""
    dropped: Mapped[int] = mapped_column(BigInteger, default=0, server_default="0")
    """Samples that were no finite number and count as black; any is a fault of the tracer."""
    seconds: Mapped[float] = mapped_column(Float, default=0.0)
    """Time spent tracing so far."""
    attempt: Mapped[int] = mapped_column(Integer, default=0)
    lease: Mapped[datetime | None] = mapped_column(Moment)
    message: Mapped[str | None] = mapped_column(Text)
    version: Mapped[int] = mapped_column(Integer, default=0)
    """Raised with each new preview."""
    picture: Mapped[str | None] = mapped_column(ForeignKey("blob.sha256"))
    created: Mapped[datetime] = mapped_column(Moment, default=utc_now)
    finished: Mapped[datetime | None] = mapped_column(Moment)
    removed: Mapped[datetime | None] = mapped_column(Moment)
    light_key: Mapped[str | None] = mapped_column(String(64))
    """Hash of the inputs with every light at its nominal level: stills with the same one differ in levels alone."""
    relit_of: Mapped[str | None] = mapped_column(String(16))
    """The still whose kept light gives this one, so that nothing needs to be traced."""
    light_kept: Mapped[bool] = mapped_column(Boolean, default=False, server_default="0")
    by_kind: Mapped[bool] = mapped_column(Boolean, default=False, server_default="0")
    """Its light is kept by kind as well, see `core.trace.kinds_of_light`."""
    scene: Mapped[str | None] = mapped_column(Json)
    """The document that it was taken of; None for stills of before that was kept."""
    finish: Mapped[str | None] = mapped_column(Text)
    """How it was finished, see `core.camera.Finish`; None: exposure, white and tone alone."""
    look: Mapped[str | None] = mapped_column(String(64))
    """By id; None: the one that was shown."""
    lighting: Mapped[str | None] = mapped_column(String(32))
    """By id, where it is not that of the shot."""
    negative: Mapped[str | None] = mapped_column(ForeignKey("blob.sha256"))
    """Its light without grain, see `core.picture.negative`."""
    survey: Mapped[str | None] = mapped_column(ForeignKey("blob.sha256"))
    """What lies behind each pixel, see `core.picture.survey_file`; None for covers, coarse and earlier stills."""
    crop: Mapped[str | None] = mapped_column(Text)
    """The part of the shot's frame that it shows, see `core.camera.crop.Crop`; None: all of it."""
    camera: Mapped[str | None] = mapped_column(Text)
    """The camera that it was taken with in place of the shot's, see `core.camera.Camera`."""
    starred: Mapped[bool] = mapped_column(Boolean, default=False, server_default="0")
    note: Mapped[str] = mapped_column(String(500), default="", server_default="")
    first: Mapped[int] = mapped_column(Integer, default=0, server_default="0")
    """Of what waits, the higher is traced sooner; then the older."""


class StillLight(Base):
    """The light of one tile of a finished still, each group of lights apart: see `core.trace.group_sums`."""

    __tablename__ = "still_light"
    still_id: Mapped[str] = mapped_column(ForeignKey("still.id", ondelete="CASCADE"), primary_key=True)
    tile: Mapped[int] = mapped_column(Integer, primary_key=True)
    means: Mapped[bytes] = mapped_column(Bytes)
    samples: Mapped[int | None] = mapped_column(Integer)
    """Of which these are the means: with them it can be traced on. None where that was not noted."""


class StillTile(Base):
    """Checkpoint of one tile: the sums of its first `samples` samples, of each group of lights apart where the still
    keeps its light."""

    __tablename__ = "still_tile"
    still_id: Mapped[str] = mapped_column(ForeignKey("still.id", ondelete="CASCADE"), primary_key=True)
    tile: Mapped[int] = mapped_column(Integer, primary_key=True)
    samples: Mapped[int] = mapped_column(Integer)
    sums: Mapped[bytes] = mapped_column(Bytes)


class StillBlock(Base):
    """A block of a still that is being finished: a file of its light without grain, or of its survey."""

    __tablename__ = "still_block"
    still_id: Mapped[str] = mapped_column(ForeignKey("still.id", ondelete="CASCADE"), primary_key=True)
    kind: Mapped[str] = mapped_column(String(8), primary_key=True)
    """light or survey"""
    number: Mapped[int] = mapped_column(Integer, primary_key=True)
    samples: Mapped[int] = mapped_column(Integer)
    """Of each pixel, that its light is made of; 0 for a survey."""
    data: Mapped[bytes] = mapped_column(Bytes)


class StillPreview(Base):
    __tablename__ = "still_preview"
    still_id: Mapped[str] = mapped_column(ForeignKey("still.id", ondelete="CASCADE"), primary_key=True)
    jpeg: Mapped[bytes] = mapped_column(Bytes)


class FinishPlate(Base):
    """A traced finish plate, by what it shows and the engine that traced it."""

    __tablename__ = "finish_plate"
    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    picture: Mapped[str] = mapped_column(ForeignKey("blob.sha256"))
    created: Mapped[datetime] = mapped_column(Moment, default=utc_now)


class KeptSample(Base):
    """An appearance that was kept for other reviews."""

    __tablename__ = "kept_sample"
    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    appearance: Mapped[str] = mapped_column(Json)
    created: Mapped[datetime] = mapped_column(Moment, default=utc_now)


class KeptLighting(Base):
    """A lighting that was kept for other reviews, with how the product stood in it."""

    __tablename__ = "kept_lighting"
    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    document: Mapped[str] = mapped_column(Json)
    """See `core.scene.carrying`."""
    is_start: Mapped[bool] = mapped_column(Boolean, default=False)
    """New reviews start with it."""
    created: Mapped[datetime] = mapped_column(Moment, default=utc_now)


class SightRun(Base):
    """Which parts can be seen: asked once for each arrangement, answered by the farm."""

    __tablename__ = "sight"
    __table_args__ = (Index("ix_sight_work", "state", "created"),)
    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    review_id: Mapped[str] = mapped_column(ForeignKey("review.id", ondelete="CASCADE"))
    question: Mapped[str] = mapped_column(Json)
    answer: Mapped[str | None] = mapped_column(Json)
    state: Mapped[str] = mapped_column(String(8), default="queued")
    """queued, running, done, failed"""
    attempt: Mapped[int] = mapped_column(Integer, default=0)
    lease: Mapped[datetime | None] = mapped_column(Moment)
    created: Mapped[datetime] = mapped_column(Moment, default=utc_now)


class Followed(Base):
    """A file on the server that a model came from and is watched for newer states."""

    __tablename__ = "followed"
    review_id: Mapped[str] = mapped_column(ForeignKey("review.id", ondelete="CASCADE"), primary_key=True)
    model: Mapped[str] = mapped_column(String(32), primary_key=True)
    path: Mapped[str] = mapped_column(String(1024))
    taken: Mapped[str] = mapped_column(String(64))
    """Size and time of the state that the review shows."""
    seen: Mapped[str] = mapped_column(String(64))
    """Size and time at the last look: a file has settled when two looks agree."""
    problem: Mapped[str | None] = mapped_column(String(255))
    newer: Mapped[bool] = mapped_column(Boolean, default=False)


class Setting(Base):
    """Of the whole installation; the value is JSON."""

    __tablename__ = "setting"
    name: Mapped[str] = mapped_column(String(32), primary_key=True)
    value: Mapped[str] = mapped_column(Text)
