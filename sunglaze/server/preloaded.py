"""What the server's processes need, imported once by the process that they are forked from. Nothing else imports this."""

import gc

import sunglaze.core.camera.rows
import sunglaze.core.face.coverage
import sunglaze.core.material.brush
import sunglaze.core.material.smaller
import sunglaze.core.targets.raster
import sunglaze.server.cutting
import sunglaze.server.drawing.worker
import sunglaze.server.reading
import sunglaze.server.rendering.worker
import sunglaze.store.shelf  # noqa: F401

# What was imported stays: a collection in a child would copy every page that it looks at.
gc.collect()
gc.freeze()
