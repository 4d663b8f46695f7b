"""What an XCAF label says of a part beyond name and colour: properties and layers. Runs in the child process."""

from __future__ import annotations

from OCP.collections import Sequence_TDF_Label
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_NamedData
from OCP.TDF import TDF_Label
from OCP.TDocStd import TDocStd_Document
from OCP.XCAFDoc import XCAFDoc_DocumentTool, XCAFDoc_LayerTool, XCAFDoc_ShapeTool

LONGEST = 400
"""Characters that are kept of one property."""


class LabelFacts:
    """`names` are the property names that occur in the file."""

    def __init__(self, document: TDocStd_Document, names: list[str]) -> None:
        self.names = names
        self.layer_tool: XCAFDoc_LayerTool = XCAFDoc_DocumentTool.LayerTool_s(document.Main())
        known = Sequence_TDF_Label()
        self.layer_tool.GetLayerLabels(known)
        self.has_layers = len(known) > 0

    def layers(self, label: TDF_Label) -> list[str]:
        """Layers that a label, or any of the bodies it is made of, lies on."""
        if not self.has_layers:
            return []
        subs = Sequence_TDF_Label()
        XCAFDoc_ShapeTool.GetSubShapes_s(label, subs)
        labels = [label, *(subs.Value(index) for index in range(1, len(subs) + 1))]
        return sorted({name for one in labels for name in self._own_layers(one)})

    def _own_layers(self, label: TDF_Label) -> list[str]:
        names = self.layer_tool.GetLayers(label)
        if names is None:
            return []
        found = (str(names.Value(index).ToExtString()).strip() for index in range(1, len(names) + 1))
        return [name for name in found if name]

    def properties(self, label: TDF_Label) -> dict[str, str]:
        """User-defined attributes as text; numbers without trailing zeros.

        The kernel's binding does not list the names that a label has, so the names of the file are tried.
        """
        if not label.IsAttribute(TDataStd_NamedData.GetID_s()):
            return {}
        data = TDataStd_NamedData()
        label.FindAttribute(TDataStd_NamedData.GetID_s(), data)
        found: dict[str, str] = {}
        for name in self.names:
            key = TCollection_ExtendedString(name, True)
            if data.HasString(key):
                found[name] = str(data.GetString(key).ToExtString()).strip()[:LONGEST]
            elif data.HasReal(key):
                found[name] = f"{data.GetReal(key):g}"
            elif data.HasInteger(key):
                found[name] = str(data.GetInteger(key))
        return {name: value for name, value in found.items() if value}
