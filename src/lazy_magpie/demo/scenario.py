"""What lies in the demo collection: the Gullwick Kite Society's films, episodes, songs, designs, kits and old games.

Everything is made up. `VIDEOS` is also the truth: where each film and episode belongs by the naming `screen`, or
nowhere, where a careful person would have to ask.
"""

from __future__ import annotations

ASK = ""

VIDEOS: dict[str, str] = {
    # films in a dozen habits
    "Heap/The.Salt.Orchard.1987.1080p.BluRay.x264-BRINE.mkv": (
        "Films/The Salt Orchard (1987)/The Salt Orchard (1987).mkv"
    ),
    "Heap/Kelp Harvest (2001).mkv": "Films/Kelp Harvest (2001)/Kelp Harvest (2001).mkv",
    "Heap/Half-Tide.2003.720p.WEB.H264-BRINE.mkv": "Films/Half-Tide (2003)/Half-Tide (2003).mkv",
    "Heap/lanterns_ii_1994_dvdrip.avi": "Films/Lanterns II (1994)/Lanterns II (1994).avi",
    "Heap/PLATFORM 2040 (1999).AVI": "Films/Platform 2040 (1999)/Platform 2040 (1999).avi",
    "Heap/[www.example.org] Web of Kelp 1977.avi": "Films/Web of Kelp (1977)/Web of Kelp (1977).avi",
    "Heap/French Pilot, The (1948).mp4": "Films/The French Pilot (1948)/The French Pilot (1948).mp4",
    "Heap/(1971) Dr. Pell's Lamp.mkv": "Films/Dr. Pell's Lamp (1971)/Dr. Pell's Lamp (1971).mkv",
    "Heap/Summer.of.1962.2004.EXTENDED.720p.mkv": ("Films/Summer of 1962 (2004)/Summer of 1962 (2004) - Extended.mkv"),
    "Heap/Sandpiper - The Return (1999) CD1.avi": (
        "Films/Sandpiper - The Return (1999)/Sandpiper - The Return (1999) - part 1.avi"
    ),
    "Heap/Sandpiper - The Return (1999) CD2.avi": (
        "Films/Sandpiper - The Return (1999)/Sandpiper - The Return (1999) - part 2.avi"
    ),
    "Heap/Élan.des.Mouettes.1974.FRENCH.DVDRip.XviD.avi": (
        "Films/Élan des Mouettes (1974)/Élan des Mouettes (1974).avi"
    ),
    "Heap/Nine and a Half Knots (1986)/movie.mkv": (
        "Films/Nine and a Half Knots (1986)/Nine and a Half Knots (1986).mkv"
    ),
    "Heap/The.Part.Timers.1963.576p.DVDRip/brn-tpt.576p.avi": "Films/The Part Timers (1963)/The Part Timers (1963).avi",
    "Films/2031 (1998)/2031 (1998).mkv": "Films/2031 (1998)/2031 (1998).mkv",
    "Films/1960s/Episode at Low Water (1958).mkv": (
        "Films/Episode at Low Water (1958)/Episode at Low Water (1958).mkv"
    ),
    "Old disk/New folder (2)/What Now, Captain (1966) - Copy.mp4": (
        "Films/What Now, Captain (1966)/What Now, Captain (1966).mp4"
    ),
    "Old disk/A Season of Fog (1990)/VIDEO_TS": "Films/A Season of Fog (1990)/VIDEO_TS",
    # films that only a person can place
    "Heap/the tern watchers 1985.mp4": ASK,
    "Heap/Kelp Ballad.mp4": ASK,
    "Old disk/Low Swell (1978)/Low Swell (1987).mkv": ASK,
    # two films that want one name: same film, other size
    "Heap/Gale Signal (1979) 90p.mkv": ASK,
    "Old disk/Gale.Signal.1979.DVDRip.mkv": ASK,
    # episodes in as many habits
    "Heap/Tidewater.Lane.S01E01.Low.Water.720p.HDTV.x264-BRINE.mkv": (
        "Series/Tidewater Lane/Season 01/Tidewater Lane S01E01 - Low Water.mkv"
    ),
    "Heap/tidewater.lane.s01e02.720p.web.h264-brine.mkv": ("Series/Tidewater Lane/Season 01/Tidewater Lane S01E02.mkv"),
    "Heap/Tidewater Lane - 1x03 - The Lock Keeper.avi": (
        "Series/Tidewater Lane/Season 01/Tidewater Lane S01E03 - The Lock Keeper.avi"
    ),
    "Heap/Tidewater Lane [1x04] Nets.avi": "Series/Tidewater Lane/Season 01/Tidewater Lane S01E04 - Nets.avi",
    "Heap/Tidewater_Lane_s1e5.avi": "Series/Tidewater Lane/Season 01/Tidewater Lane S01E05.avi",
    "Old disk/Tidewater Lane/Season 2/01 - Spring Flood.mkv": (
        "Series/Tidewater Lane/Season 02/Tidewater Lane S02E01 - Spring Flood.mkv"
    ),
    "Old disk/Tidewater Lane/Season 2/02 - The Ferry.mkv": (
        "Series/Tidewater Lane/Season 02/Tidewater Lane S02E02 - The Ferry.mkv"
    ),
    "Old disk/Tidewater Lane/Season 2/twl.s02e03.avi": "Series/Tidewater Lane/Season 02/Tidewater Lane S02E03.avi",
    "Old disk/Tidewater Lane/Season 2/Tidewater Lane 204.avi": (
        "Series/Tidewater Lane/Season 02/Tidewater Lane S02E04.avi"
    ),
    "Old disk/Tidewater Lane/Season 2/Tidewater Lane S02E05E06 - High Water.mkv": (
        "Series/Tidewater Lane/Season 02/Tidewater Lane S02E05-E06 - High Water.mkv"
    ),
    "Old disk/Tidewater Lane/Specials/01 - Behind the Nets.mkv": (
        "Series/Tidewater Lane/Specials/Tidewater Lane S00E01 - Behind the Nets.mkv"
    ),
    "Heap/Signal House (2004) S01E01.mkv": ("Series/Signal House (2004)/Season 01/Signal House (2004) S01E01.mkv"),
    "Heap/Signal House (1961)/Season 1/Signal House S01E01.mkv": (
        "Series/Signal House (1961)/Season 01/Signal House (1961) S01E01.mkv"
    ),
    "Heap/Harbour.UK.S01E01.720p.mkv": "Series/Harbour (UK)/Season 01/Harbour (UK) S01E01.mkv",
    "Heap/24 Knots - 1x03 - Squall.avi": "Series/24 Knots/Season 01/24 Knots S01E03 - Squall.avi",
    "Heap/Captain Gale Season 1 Episode 2 The 1962 Storm.mp4": (
        "Series/Captain Gale/Season 01/Captain Gale S01E02 - The 1962 Storm.mp4"
    ),
    "Heap/The.Harbour.Report.2019.03.21.720p.mkv": (
        "Series/The Harbour Report/2019/The Harbour Report - 2019-03-21.mkv"
    ),
    "Heap/[Brine] Moon Trawlers - 014 [1080p][A1B2C3D4].mkv": "Series/Moon Trawlers/Moon Trawlers - 014.mkv",
    "Heap/Keepers.Log.1of4.The.Lamp.avi": "Series/Keepers Log/Season 01/Keepers Log S01E01 - The Lamp.avi",
    "Series/Quay 27/Season 01/Quay 27 S01E01.mkv": "Series/Quay 27/Season 01/Quay 27 S01E01.mkv",
    "Series/Quay 27/Season 01/quay.27.s01e02.hdtv.mkv": "Series/Quay 27/Season 01/Quay 27 S01E02.mkv",
    # episodes that only a person can place
    "Heap/Captain Gale 105.avi": ASK,
    "Heap/Night Barge E07.mkv": ASK,
}
"""Every film and episode, and where `screen` puts it; `ASK` where it stays until a person has answered."""

BESIDE = (
    "Heap/Kelp Harvest (2001).en.srt",
    "Heap/Kelp Harvest (2001).fr.forced.srt",
    "Heap/Kelp Harvest (2001)-poster.jpg",
    "Heap/The.Salt.Orchard.1987.1080p.BluRay.x264-BRINE.srt",
    "Heap/Nine and a Half Knots (1986)/poster.jpg",
    "Heap/Nine and a Half Knots (1986)/brine.nfo",
    "Heap/Nine and a Half Knots (1986)/Subs/English.srt",
    "Heap/The.Part.Timers.1963.576p.DVDRip/brn-tpt.576p.nfo",
    "Old disk/Tidewater Lane/poster.jpg",
    "Old disk/Tidewater Lane/Season 2/02 - The Ferry.de.srt",
    "Old disk/Tidewater Lane/Season 2/Thumbs.db",
    "Heap/Thumbs.db",
    "Heap/desktop.ini",
    "Heap/half-finished.mkv.part",
)
"""What lies beside the films and episodes: subtitles, covers, papers, junk, a download that has not ended."""

EXTRAS = (
    "Heap/Nine and a Half Knots (1986)/Nine and a Half Knots (1986)-trailer.mkv",
    "Heap/Nine and a Half Knots (1986)/Sample/brn-knots-sample.mkv",
    "Heap/The.Part.Timers.1963.576p.DVDRip/Sample/brn-tpt-sample.avi",
    "Old disk/Tidewater Lane/Extras/Bloopers.mkv",
)
"""Trailers, samples and bonus clips."""

DUPLICATES = {
    "Old disk/Kelp Harvest.2001.copy.bin": "Heap/Kelp Harvest (2001).mkv",
    "Old disk/Nets (again).avi": "Heap/Tidewater Lane [1x04] Nets.avi",
}
"""Copies, byte for byte, of other files."""

SONGS = {
    "Music/Ida Marrow/Low Lights (2009)/01 - Slack Water.flac": 0,
    "Music/Ida Marrow/Low Lights (2009)/02 - Harbour Wall.flac": 0,
    "Music/Ida Marrow/Low Lights (2009)/03 - Ebb.flac": 0,
    "Music/Ida Marrow/Low Lights (2009)/folder.jpg": -1,
    "Music/Various Artists/Harbour Sessions/01 - Ida Marrow - Slack Water.ogg": 96,
    "Music/Various Artists/Harbour Sessions/02 - The Pierheads - Kite Day.ogg": 96,
    "Music/The Pierheads/Kite Day/01 Kite Day.mp3": 320,
    "Music/The Pierheads/Kite Day/02 Tangled Line.mp3": 192,
    "Music/The Pierheads/Kite Day/03 Spare String.mp3": 128,
    "Music/The Pierheads - Salt on the Reel.mp3": 128,
    "Music/Ida Marrow/Low Tide Demos/Disc 1/01 Undertow.m4a": 128,
}
"""Songs and their bit rates in kbit/s; 0 is lossless, -1 a cover picture."""

FONTS = {
    "Fonts/Gullwick Sans/GullwickSans-Regular.ttf": 80,
    "Fonts/Gullwick Sans/GullwickSans-Bold.ttf": 140,
    "Fonts/Gullwick Sans/GullwickSans-Italic.ttf": 81,
    "Fonts/Bunting/Bunting-Regular.otf": 60,
    "Fonts/Bunting-Regular.woff": 60,
}
"""Font files and the width of their strokes."""

DESIGNS = {
    "Designs/Needle Jetty/Kite Emblem": ("dst", "pes", "jef", "exp", "vp3"),
    "Designs/Needle Jetty/Anchor Border": ("dst", "pes"),
    "Designs/Needle Jetty/Tern in Flight": ("pes", "jef"),
    "Designs/Mooring Stitch Studio/Rope Knot": ("dst", "exp"),
}
"""Stitch designs and the machine formats that they come in; each has a colour chart as PDF and a thumbnail."""

STITCH_FONT = "Designs/Stitch fonts/Needle Jetty/Rope Capitals 2in"
STITCH_LETTERS = "ABCDEFG"

KIT_PARTS = {
    "FennickPaperCo_HarbourLamps_Elements.zip": ("buoy.png", "rope.png", "lamp.png", "gull.png"),
    "FennickPaperCo_HarbourLamps_Papers1.zip": ("fpc_hl_paper_01.jpg", "fpc_hl_paper_02.jpg"),
    "FennickPaperCo_HarbourLamps_Papers2.zip": ("fpc_hl_paper_03.jpg", "fpc_hl_paper_04.jpg"),
    "FennickPaperCo_HarbourLamps_WordArt.zip": ("wordart/ahoy.png", "wordart/fair winds.png"),
    "FennickPaperCo_HarbourLamps_Alpha.zip": ("Alpha/fpc_hl_alpha_A.png", "Alpha/fpc_hl_alpha_B.png"),
}
"""Archives of one kit in several parts, as they were downloaded."""

KIT_FOLDER = {
    "Kits/Fennick Paper Co/Kite Day/elements": ("kite.png", "string.png", "cloud.png"),
    "Kits/Fennick Paper Co/Kite Day/papers": ("paper_01.jpg", "paper_02.jpg"),
    "Kits/Fennick Paper Co/Kite Day": ("preview.jpg",),
}
"""A kit that was unpacked long ago."""

CHIP8_GAMES = (
    "Games/chip8/Buoy Bandit (Europe) (En,Fr,De).ch8",
    "Games/chip8/Buoy Bandit (Japan) (Rev 1).ch8",
    "Games/chip8/Kite Run (World) (Unl).ch8",
    "Games/chip8/Bandit, The - Night Watch (Europe).ch8",
)
CARTRIDGES = ("Games/tern8/Lamp Room (Europe).trn", "Games/tern8/Moon Trawlers (USA, Europe) (v1.2).trn")
DISC_GAME = "Games/lantern/Trawler Saga (Europe)"
DISCS = 3

OLDER, NEWER = "Lists/Older/reef4 2025-10.xml", "Lists/reef4 2026-03.xml"
WHARF_LIST, FIRMWARE_LIST = "Lists/wharf.csv", "Lists/firmware.csv"
REEF: dict[str, tuple[str, str]] = {
    "Kelp Kart (Europe)": ("Kelp Kart (World)", ""),
    "Lamp Lighter (Europe)": ("Lamp Lighter (Europe)", ""),
    "Pier Patrol (Europe)": ("Pier Patrol (Europe)", ""),
    "Sandbank Solo (Europe)": ("Sandbank Solo (Europe)", ""),
    "Sandbank Solo (USA)": ("Sandbank Solo (USA)", "Sandbank Solo (Europe)"),
    "Winch Winder (World)": ("Winch Winder (World)", ""),
}
"""The games that the newer list of the Reef 4 has, each as the older one called it, and what it is a clone of."""
WHARF: dict[str, tuple[str, ...]] = {
    "Crab Census (Europe)": ("census.wrf", "harbour.wrf"),
    "Mast Master (Europe)": ("mast.wrf",),
}
"""The games that the list of the Wharf has, with their files."""
FIRMWARE = {"Reef 4": "reef4boot.rom", "Wharf": "wharfboot.rom"}
REEF_FILES = {
    "Games/reef4/Kelp Kart (World).rf4": "Kelp Kart (Europe)",
    "Games/reef4/lamp-lighter.rf4": "Lamp Lighter (Europe)",
    "Games/reef4/Sandbank Solo (Europe).rf4": "",
    "Games/reef4/Sandbank Solo (USA).rf4": "Sandbank Solo (USA)",
}
"""What there is of the Reef 4, by the names of the newer list; one is damaged."""
ELSEWHERE = "Old disk/rf4 wrf 2009.zip"
"""An archive with a game of either system in it."""

BACKUP = "Backup 2024"
BACKED_UP = "Designs"
CHANGED_IN_BACKUP = "Designs/Needle Jetty/Kite Emblem/Kite Emblem.dst"
MISSING_IN_BACKUP = "Designs/Needle Jetty/Anchor Border/Anchor Border.pes"

CLUB_FILES = (
    "Club/Committee minutes 2024.txt",
    "Club/Film evening list.txt",
    "Club/README",
    "Club/Harbour wall.jpg",
    "Club/Kite table.jpg",
)
EMPTY_FOLDERS = ("Heap/To sort later", "Club/Next year")

TITLES_FILE = "Club/Film evening titles.csv"
TITLES = """\
kind,title,year,other titles,season,episode,episode title,air date
movie,The Tern Watchers,1985,Die Seeschwalben|Les Guetteurs,,,,
movie,Kelp Ballad,1993,,,,,
movie,Kelp Ballad,2011,Ballade du varech,,,,
movie,Kelp Harvest,2001,,,,,
movie,The Salt Orchard,1987,Der Salzgarten,,,,
movie,Low Swell,1978,,,,,
movie,Low Swell,1987,Tiefdruck,,,,
movie,Gale Signal,1979,,,,,
movie,Маяк,1981,The Lighthouse,,,,
movie,Lanterns II,1994,,,,,
show,Captain Gale,1999,,1,2,The 1962 Storm,1999-02-14
show,Captain Gale,1999,,1,5,The Wreck,1999-03-07
show,Night Barge,2005,,1,7,Landfall,2005-06-18
show,Tidewater Lane,1991,,1,1,Low Water,1991-09-01
show,Tidewater Lane,1991,,1,2,The Weir,1991-09-08
show,Tidewater Lane,1991,,1,5,Fog,1991-09-29
show,Tidewater Lane,1991,,2,3,Slack Water,1992-09-20
show,Tidewater Lane,1991,,2,4,The Lamp Room,1992-09-27
show,Signal House,1961,,1,1,The Keeper,1961-01-05
show,Signal House,2004,,1,1,New Light,2004-04-02
"""
"""The film evening's own list of titles: what the demo's title service serves."""

SETTLED = {
    "Heap/the tern watchers 1985.mp4": "Films/The Tern Watchers (1985)/The Tern Watchers (1985).mp4",
    "Heap/Captain Gale 105.avi": "Series/Captain Gale/Season 01/Captain Gale S01E05 - The Wreck.avi",
    "Heap/Night Barge E07.mkv": "Series/Night Barge/Season 01/Night Barge S01E07 - Landfall.mkv",
}
"""What the titles leave no doubt about, and where it then belongs."""
