"""What the lightship's gear costs and weighs: made up, like all of it. What is not listed nobody has looked up."""

from __future__ import annotations

from low_tide.core.gear.papers import Papers

PAPERS = {
    "godwit-45": Papers(1650, 17.5, "0213", "March 2026, the harbour's technician", 140),
    "redshank-100": Papers(2100, 22, "1187", "October 2025, the harbour's technician", 310),
    "dunlin-18": Papers(980, 16, "0466"),
    "dotterel-60": Papers(1250, 14),
    "greenshank-30": Papers(1400, 21, "0921"),
    "phalarope-50": Papers(620, 6.5),
    "groyne-r8": Papers(640, 5.2, "R8-077"),
    "gabion-40": Papers(210, 2.4),
    "revetment-16": Papers(560, 4.8),
    "riprap-50": Papers(240, 2.1),
    "caisson-120": Papers(780, 6.4, "C-0304"),
    "sandbag-30": Papers(150, 1.6),
    "dolos-50": Papers(890, 5.9),
    "winkle-1": Papers(75, 0.3),
    "turnstone-212": Papers(720, None, "T-55"),
    "whimbrel-412": Papers(940, None, "W-12"),
    "sanderling-112": Papers(380),
    "limpet-1": Papers(110, 0.4),
    "skerry-4": Papers(430, 1.9, "SK4-3108"),
    "promenade-8": Papers(1150, 4.4, "P8-0029"),
}
