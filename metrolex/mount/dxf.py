"""A stencil as a DXF file in mm, layer by layer (ezdxf)."""

from __future__ import annotations

import io

from metrolex.mount.stencil import Disc, Line, Stencil

__all__ = ["dxf_of"]

#: Colour numbers of the layers.
LAYERS = {"cut": 1, "mark": 3, "size": 5}


def dxf_of(stencil: Stencil) -> str:
    """The text of the file."""
    from ezdxf import units  # takes a while to load, and only this needs it
    from ezdxf.document import Drawing
    from ezdxf.enums import TextEntityAlignment

    drawing = Drawing.new("R2010")
    drawing.units = units.MM
    for name, colour in LAYERS.items():
        drawing.layers.add(name.upper(), color=colour)
    space = drawing.modelspace()
    for shape in stencil.shapes:
        if isinstance(shape, Disc):
            space.add_circle((shape.x, shape.y), shape.r, dxfattribs={"layer": shape.layer.upper()})
        elif isinstance(shape, Line):
            space.add_lwpolyline(shape.points, close=shape.closed, dxfattribs={"layer": shape.layer.upper()})
        else:
            space.add_text(shape.words, height=shape.high, dxfattribs={"layer": "SIZE"}).set_placement(
                (shape.x, shape.y), align=TextEntityAlignment.MIDDLE_CENTER
            )
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue()
