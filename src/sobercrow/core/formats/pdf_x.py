"""What makes a PDF one for a press: PDF/X-4 (ISO 15930-7), which says what condition its colours are meant for."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any
from uuid import NAMESPACE_URL, uuid5

import pikepdf
from pikepdf import Array, Dictionary, Name

from sobercrow.core.handover.printing import PressProfile

VERSION = "1.6"
STANDARD = "PDF/X-4"
REGISTRY = "http://www.color.org"
PDFX = "http://www.npes.org/pdfx/ns/id/"
NO_TITLE = "Artwork"


def make_press_ready(pdf: pikepdf.Pdf, profile: PressProfile, title: str, author: str) -> None:
    """Add what the standard asks for beside colours that a press prints: the intended condition with its profile, where
    pages are trimmed, and metadata that names the standard."""
    pdf.Root.OutputIntents = Array([_intent(pdf, profile)])
    for page in pdf.pages:
        page.obj.TrimBox = page.obj.MediaBox
    now = datetime.now(UTC).replace(microsecond=0)
    stamp = now.isoformat()
    with pdf.open_metadata(set_pikepdf_as_editor=False, update_docinfo=False) as told:
        told.register_xml_namespace(PDFX, "pdfxid")
        told["pdfxid:GTS_PDFXVersion"] = STANDARD
        told["dc:title"] = title or NO_TITLE
        if author:
            told["dc:creator"] = [author]
        for name in ("xmp:CreateDate", "xmp:ModifyDate", "xmp:MetadataDate"):
            told[name] = stamp
        told["xmp:CreatorTool"] = told["pdf:Producer"] = "Sober Crow"
        told["pdf:Trapped"] = "False"
        told["xmpMM:DocumentID"] = f"uuid:{_identity(pdf, stamp)}"
        told["xmpMM:VersionID"] = "1"
        told["xmpMM:RenditionClass"] = "default"
    information = pdf.docinfo
    information["/Title"] = title or NO_TITLE
    information["/Producer"] = information["/Creator"] = "Sober Crow"
    information["/Trapped"] = Name("/False")
    for key in ("/CreationDate", "/ModDate"):
        information[key] = now.strftime("D:%Y%m%d%H%M%S+00'00'")


def _identity(pdf: pikepdf.Pdf, stamp: str) -> str:
    """A name for this very document."""
    return str(uuid5(NAMESPACE_URL, stamp + "".join(str(page.Contents.read_bytes()[:4096]) for page in pdf.pages)))


def _intent(pdf: pikepdf.Pdf, profile: PressProfile) -> Any:
    stream = pdf.make_stream(profile.data)
    stream.N = 4
    stream.Alternate = Name.DeviceCMYK
    intent = Dictionary(
        Type=Name.OutputIntent,
        S=Name("/GTS_PDFX"),
        OutputConditionIdentifier=pikepdf.String(profile.condition or profile.name),
        Info=pikepdf.String(profile.name),
        DestOutputProfile=stream,
    )
    if profile.condition:
        intent.RegistryName = pikepdf.String(REGISTRY)
    return pdf.make_indirect(intent)
