"""Made-up words, titles and the words of release groups that the corpus is drawn from."""

from __future__ import annotations

NOUNS = (
    "Orchard Tide Lantern Kelp Gull Ferry Harbour Weir Beacon Sandbar Skipper Mussel Groyne Squall Rope Anchor "
    "Driftwood Kite Sailmaker Heron Mudflat Estuary Lobster Barnacle Foghorn Jetty Oar Bollard Shingle Marram Plover "
    "Curlew Tern Sluice Dredger Tiller Mast Bowsprit Net Cockle Samphire Saltmarsh Breakwater Chandler Pilot "
    "Warden Signal Winch"
).split()
ADJECTIVES = (
    "Salt Low Quiet Broken Last Second Silver Bitter Green Hollow Distant Patient Crooked Tall Wet Pale Northern "
    "Narrow Sunken Idle Honest Rusted Double Early Late Slow"
).split()
NAMES = "Pell Marrow Halloway Gale Fennick Tarn Osprey Brine Wick Loom Dunlin Sedge Teal Quill Hask Mere Rook".split()
FIRST = "Ida Wren Mabel Otto Juno Silas Edda Bram Clove Hesper Linus Petra Tove Alder Nell".split()
AWKWARD = (
    "The French Pilot", "Web of Kelp", "Cam", "The Complete Skipper", "Extended Leave", "A Season of Fog", "X",
    "Episode at Low Water", "The Part Timers", "Uncut Rope", "TV Mast", "Disc of Brass", "Remastered Hearts", "9 Oars",
    "The Trailer Park Gull", "Half-Tide", "Up-River", "2031", "Summer of 1962", "Platform 2040", "1066 Herrings",
    "Nine and a Half Knots", "What Now, Skipper", "Dr. Pell's Lamp", "Mr. Wick Sails", "S.T.O.R.M.", "Salt & Rope",
    "Sandpiper - The Return", "Lanterns II", "Gale III", "Lanterns 2", "The German Buoy", "Danish for Sailors",
    "Élan des Mouettes", "Die Flöte", "El Niño del Muelle", "Маяк", "Ночной паром", "灯台の夜", "港の朝", "Τα Καράβια",
    "Proper Weather", "Limited Visibility", "The Internal Harbour", "Dual Keels", "Series of Squalls",
    "Full Sail Ahead",
    "The Sample Keeper", "Director of the Pier", "Bonus Tide", "Kelp, Salt and Rope", "O Barco", "Retail Fish",
    "Opus 9",
    "The Final Cutter", "Theatrical Waters", "Special Delivery to Wick", "Vol de Brume", "Ten Minutes to Ebb",
    "HD Gull",
)  # fmt: skip
SHOWS = (
    "Quay 27", "24 Knots", "The 300 Buoys", "Route 87 to the Sea", "9-7-7 Lifeboat", "Half-Tide Hotel", "Keeper's Log",
    "Harbour (UK)", "Wharf (US)", "Tidewater Lane", "The Harbour Report", "Marlow & Tern", "Dr. Sedge", "Паром",
    "灯台守",
    "Late at the Lock", "Room 9", "Part of the Crew", "Season Ticket", "The Web Menders", "A French Wharf", "Ten Bells",
)  # fmt: skip
GROUPS = "BRINE GULL KELPiE TiDE SaLT KN0T".split()
SOURCES = (
    "BluRay",
    "WEB-DL",
    "WEBRip",
    "HDTV",
    "DVDRip",
    "BDRip",
    "BRRip",
    "HDRip.WEB-DL",
    "WEB",
    "UHD.BluRay",
    "PDTV",
    "VHSRip",
)
CODECS = "x264 x265 H.264 H264 HEVC XviD AV1 h265".split()
SOUNDS = "DTS AAC AC3 DD5.1 DDP5.1 AAC2.0 TrueHD FLAC".split()
RESOLUTIONS = "1080p 720p 2160p 576p 480p 1080i".split()
EDITIONS = {
    "Director's Cut": ("Directors Cut", "Director's Cut"),
    "Extended": ("EXTENDED", "Extended", "Extended Edition", "Extended Cut"),
    "Remastered": ("REMASTERED", "Remastered"),
    "Unrated": ("UNRATED", "Unrated"),
    "Uncut": ("UNCUT",),
    "Theatrical": ("THEATRICAL", "Theatrical Cut"),
}
LANGUAGES = {"fr": "FRENCH", "de": "GERMAN", "es": "SPANISH", "it": "ITALIAN", "nl": "DUTCH", "sv": "SWEDISH"}
