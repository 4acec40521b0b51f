"""Songs, games, kits, designs, fonts and papers in many habits of naming."""

from __future__ import annotations

from tests.habits import Case

OTHERS: tuple[Case, ...] = (
    ("Music/Ida Marrow/Slack Water.mp3", "track doubtful", {"album": "Ida Marrow", "title": "Slack Water"}),
    (
        "Ida Marrow/Low Lights (2009) [FLAC 24-96]/03 Slack Water.flac",
        "track clear",
        {"artist": "Ida Marrow", "album": "Low Lights", "year": 2009, "track": 3, "title": "Slack Water"},
    ),
    (
        "Ida Marrow/Low Lights [2009]/A3 Slack Water.flac",
        "track doubtful",
        {"artist": "Ida Marrow", "album": "Low Lights", "year": 2009, "title": "Slack Water"},
    ),
    (
        "Ida Marrow/Low Lights (Deluxe Edition) (2009)/CD1/03 - Slack Water.mp3",
        "track clear",
        {
            "artist": "Ida Marrow",
            "album": "Low Lights (Deluxe Edition)",
            "year": 2009,
            "disc": 1,
            "track": 3,
            "title": "Slack Water",
        },
    ),
    (
        "Ida Marrow/(2009) Low Lights/03-slack_water.mp3",
        "track clear",
        {"artist": "Ida Marrow", "album": "Low Lights", "year": 2009, "track": 3, "title": "Slack Water"},
    ),
    (
        "ida_marrow-low_lights-03-slack_water.mp3",
        "track clear",
        {"artist": "Ida Marrow", "album": "Low Lights", "track": 3, "title": "Slack Water"},
    ),
    (
        "Ida Marrow - Low Lights (2009) - 03 - Slack Water.mp3",
        "track clear",
        {"artist": "Ida Marrow", "album": "Low Lights", "year": 2009, "track": 3, "title": "Slack Water"},
    ),
    (
        "Ida Marrow/Low Lights/Ida Marrow - Slack Water.mp3",
        "track clear",
        {"artist": "Ida Marrow", "album": "Low Lights", "title": "Slack Water"},
    ),
    (
        "Ida Marrow/Low Lights/03 - Ida Marrow - Slack Water.mp3",
        "track clear",
        {"artist": "Ida Marrow", "album": "Low Lights", "track": 3, "title": "Slack Water"},
    ),
    (
        "Ida Marrow/Low Lights/03 - Slack Water (feat. The Pierheads).mp3",
        "track clear",
        {"artist": "Ida Marrow", "album": "Low Lights", "track": 3, "title": "Slack Water (feat. The Pierheads)"},
    ),
    (
        "Ida Marrow/Low Lights/103 - Slack Water.mp3",
        "track doubtful",
        {"artist": "Ida Marrow", "album": "Low Lights", "disc": 1, "track": 3, "title": "Slack Water"},
    ),
    (
        "Ida Marrow/Singles/Slack Water.mp3",
        "track doubtful",
        {"artist": "Ida Marrow", "album": "Singles", "title": "Slack Water"},
    ),
    (
        "Ida Marrow/Low Lights (2009)/Disc 2 - Night Side/03 - Slack Water.mp3",
        "track clear",
        {"artist": "Ida Marrow", "album": "Low Lights", "year": 2009, "disc": 2, "track": 3, "title": "Slack Water"},
    ),
    (
        "Various/Harbour Sessions (2011)/07 Ida Marrow - Slack Water.mp3",
        "track clear",
        {
            "artist": "Ida Marrow",
            "album_artist": "Various Artists",
            "album": "Harbour Sessions",
            "year": 2011,
            "track": 7,
            "title": "Slack Water",
        },
    ),
    (
        "Various Artists - Harbour Sessions/07 - Ida Marrow - Slack Water.mp3",
        "track clear",
        {
            "artist": "Ida Marrow",
            "album_artist": "Various Artists",
            "album": "Harbour Sessions",
            "track": 7,
            "title": "Slack Water",
        },
    ),
    (
        "Ida Marrow & The Pierheads/Low Lights/03 - Slack Water.mp3",
        "track clear",
        {"artist": "Ida Marrow & The Pierheads", "album": "Low Lights", "track": 3, "title": "Slack Water"},
    ),
    (
        "The Pierheads/Kite Day/01. Kite Day.mp3",
        "track clear",
        {"artist": "The Pierheads", "album": "Kite Day", "track": 1, "title": "Kite Day"},
    ),
    (
        "Pierheads, The/Kite Day/01 - Kite Day.mp3",
        "track clear",
        {"artist": "The Pierheads", "album": "Kite Day", "track": 1, "title": "Kite Day"},
    ),
    (
        "Music/Albums/Ida Marrow/Low Lights/03 - Slack Water.mp3",
        "track clear",
        {"artist": "Ida Marrow", "album": "Low Lights", "track": 3, "title": "Slack Water"},
    ),
    (
        "Music/FLAC/Ida Marrow/Low Lights/03 - Slack Water.flac",
        "track clear",
        {"artist": "Ida Marrow", "album": "Low Lights", "track": 3, "title": "Slack Water"},
    ),
    (
        "03. Ida Marrow - Slack Water.mp3",
        "track doubtful",
        {"artist": "Ida Marrow", "track": 3, "title": "Slack Water"},
    ),
    ("Track 03.mp3", "track doubtful", {"track": 3}),
    (
        "Ida Marrow/Low Lights/Track 03.mp3",
        "track doubtful",
        {"artist": "Ida Marrow", "album": "Low Lights", "track": 3},
    ),
    ("Ida Marrow/Low Lights/03.mp3", "track doubtful", {"artist": "Ida Marrow", "album": "Low Lights", "title": "03"}),
    (
        "Ida Marrow/2009. Low Lights/03. Slack Water.mp3",
        "track clear",
        {"artist": "Ida Marrow", "album": "Low Lights", "year": 2009, "track": 3, "title": "Slack Water"},
    ),
    (
        "Ida Marrow/2009 Low Lights/03. Slack Water.mp3",
        "track doubtful",
        {"artist": "Ida Marrow", "album": "Low Lights", "year": 2009, "track": 3, "title": "Slack Water"},
    ),
    (
        "chip8/Buoy Bandit (Europe) (Disc A).ch8",
        "game clear",
        {"title": "Buoy Bandit", "regions": ["Europe"], "disc": 1, "system": "chip8"},
    ),
    (
        "chip8/Buoy Bandit (E) [b1].ch8",
        "game clear",
        {"title": "Buoy Bandit", "regions": ["Europe"], "system": "chip8"},
    ),
    (
        "chip8/Buoy Bandit (UE) (M3).ch8",
        "game clear",
        {"title": "Buoy Bandit", "regions": ["USA", "Europe"], "system": "chip8"},
    ),
    (
        "chip8/Buoy Bandit (Europe) (Rev B) (Virtual).ch8",
        "game clear",
        {"title": "Buoy Bandit", "regions": ["Europe"], "revision": "B", "system": "chip8"},
    ),
    (
        "chip8/Buoy Bandit II - The Return (USA).ch8",
        "game clear",
        {"title": "Buoy Bandit II - The Return", "regions": ["USA"], "system": "chip8"},
    ),
    (
        "chip8/Buoy Bandit v1.1 (1987)(Gullwick Soft)(GB)[a].ch8",
        "game clear",
        {"title": "Buoy Bandit", "year": 1987, "regions": ["UK"], "revision": "1.1", "system": "chip8"},
    ),
    (
        "chip8/Buoy Bandit, The (Europe).ch8",
        "game clear",
        {"title": "The Buoy Bandit", "regions": ["Europe"], "system": "chip8"},
    ),
    (
        "chip8/BUOY BANDIT (EUROPE).CH8",
        "game clear",
        {"title": "Buoy Bandit", "regions": ["Europe"], "system": "chip8"},
    ),
    (
        "chip8/Buoy Bandit (Europe) (Beta 2).ch8",
        "game clear",
        {"title": "Buoy Bandit", "regions": ["Europe"], "status": ["beta"], "system": "chip8"},
    ),
    (
        "chip8/Buoy Bandit (Europe) (1988-04-02).ch8",
        "game clear",
        {"title": "Buoy Bandit", "regions": ["Europe"], "system": "chip8"},
    ),
    (
        "Games/chip8/Europe/Buoy Bandit (Europe).ch8",
        "game clear",
        {"title": "Buoy Bandit", "regions": ["Europe"], "system": "chip8"},
    ),
    (
        "roms/CHIP-8/Buoy Bandit (Europe).zip",
        "game clear",
        {"title": "Buoy Bandit", "regions": ["Europe"], "system": "chip8"},
    ),
    ("Buoy Bandit.ch8", "game clear", {"title": "Buoy Bandit", "system": "chip8"}),
    ("Buoy Bandit (Europe) (Disc 1).cue", "game doubtful", {"title": "Buoy Bandit", "regions": ["Europe"], "disc": 1}),
    ("chip8/bios/boot.bin", "firmware doubtful", {"system": "chip8"}),
    (
        "Kits/Fennick Paper Co/Harbour Lamps/Papers/HL paper 1.png",
        "kit clear",
        {"section": "papers", "maker": "Fennick Paper Co", "title": "Harbour Lamps"},
    ),
    (
        "Kits/Fennick Paper Co/FPC - Harbour Lamps - Elements.zip",
        "kit clear",
        {"section": "elements", "maker": "Fennick Paper Co", "title": "Harbour Lamps"},
    ),
    ("Kits/Harbour Lamps/papers/p1.jpg", "kit doubtful", {"section": "papers", "title": "Harbour Lamps"}),
    (
        "Kits/Fennick Paper Co/Harbour Lamps Papers.zip",
        "kit clear",
        {"section": "papers", "maker": "Fennick Paper Co", "title": "Harbour Lamps"},
    ),
    ("Kits/Fennick Paper Co/Harbour Lamps.zip", "kit clear", {"maker": "Fennick Paper Co", "title": "Harbour Lamps"}),
    (
        "Fennick Paper Co - Harbour Lamps - Elements.zip",
        "kit doubtful",
        {"section": "elements", "maker": "Fennick Paper Co", "title": "Harbour Lamps"},
    ),
    (
        "Fennick Paper Co - Harbour Lamps (Add-on).zip",
        "kit doubtful",
        {"section": "add-on", "maker": "Fennick Paper Co", "title": "Harbour Lamps"},
    ),
    (
        "Kits/Fennick Paper Co/Harbour Lamps/Add-on/x.png",
        "kit clear",
        {"section": "add-on", "maker": "Fennick Paper Co", "title": "Harbour Lamps"},
    ),
    (
        "Kits/Fennick Paper Co/Harbour Lamps/TOU.txt",
        "companion clear",
        {"role": "licence", "of": "Harbour Lamps", "maker": "Fennick Paper Co"},
    ),
    (
        "Kits/Fennick Paper Co/Harbour Lamps/readme.pdf",
        "companion clear",
        {"role": "instructions", "of": "Harbour Lamps", "maker": "Fennick Paper Co"},
    ),
    (
        "Designs/Needle Jetty/Kite Emblem/KiteEmblem_5x7.PES",
        "design clear",
        {"maker": "Needle Jetty", "title": "Kite Emblem"},
    ),
    (
        "Designs/Needle Jetty/NJ0142 Kite Emblem 4x4.jef",
        "design clear",
        {"maker": "Needle Jetty", "title": "Kite Emblem", "code": "NJ0142"},
    ),
    ("Designs/Needle Jetty/Sea Set/anchor_100x100.pes", "design clear", {"maker": "Needle Jetty", "title": "Anchor"}),
    (
        "Designs/Needle Jetty/Sea Set/NJ0200.dst",
        "design clear",
        {"maker": "Needle Jetty", "title": "Sea Set", "code": "NJ0200"},
    ),
    (
        "Designs/Needle Jetty - Kite Emblem/kite-emblem.pes",
        "design clear",
        {"maker": "Needle Jetty", "title": "Kite Emblem"},
    ),
    ("Needle Jetty/Kite Emblem/kite-emblem.pes", "design clear", {"maker": "Needle Jetty", "title": "Kite Emblem"}),
    ("Designs/kite-emblem.pes", "design doubtful", {"title": "Kite Emblem"}),
    (
        "Designs/Needle Jetty/Kite Emblem/Kite Emblem.png",
        "companion clear",
        {"role": "thumbnail", "of": "Kite Emblem", "maker": "Needle Jetty"},
    ),
    (
        "Designs/Needle Jetty/Kite Emblem/instructions.pdf",
        "companion clear",
        {"role": "instructions", "of": "Kite Emblem", "maker": "Needle Jetty"},
    ),
    (
        "Designs/Needle Jetty/Kite Emblem/Kite Emblem - colour card.pdf",
        "companion clear",
        {"role": "chart", "of": "Kite Emblem", "maker": "Needle Jetty"},
    ),
    (
        "Stitch fonts/Needle Jetty/Rope Capitals 2in/rope_a_lower.dst",
        "font clear",
        {"maker": "Needle Jetty", "family": "Rope Capitals 2in", "glyph": "a"},
    ),
    ("Stitch fonts/Rope Capitals/A.pes", "font clear", {"family": "Rope Capitals", "glyph": "A"}),
    ("Fonts/GullwickSans-Regular.otf", "font clear", {"family": "Gullwick Sans", "style": "Regular"}),
    ("Fonts/Gullwick Sans/OFL.txt", "companion clear", {"role": "licence", "of": "Gullwick Sans"}),
    (
        "GullwickSansCondensed-BoldItalic.ttf",
        "font clear",
        {"family": "Gullwick Sans", "style": "Condensed Bold Italic"},
    ),
    ("Gullwick_Sans_Light.ttf", "font clear", {"family": "Gullwick Sans", "style": "Light"}),
    ("gullwick-sans-v12-latin-700.woff2", "font clear", {"family": "Gullwick Sans", "style": "Bold"}),
    ("GullwickSans[wght].ttf", "font clear", {"family": "Gullwick Sans"}),
    ("gullwick_bd.ttf", "font clear", {"family": "Gullwick", "style": "Bold"}),
    ("Manuals/Kettle guide v2.pdf", "document clear", {"title": "Kettle guide v2"}),
    ("IMG_2034.JPG", "picture clear", {"title": "IMG_2034"}),
    ("stuff.7z", "archive clear", {}),
    ("The.Salt.Orchard.1987.1080p.zip", "archive clear", {}),
    ("movie.mkv", "movie doubtful", {"title": "Movie"}),
    (".hidden.mkv", "movie doubtful", {"title": "Hidden"}),
)
