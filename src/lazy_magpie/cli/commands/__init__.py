"""The commands, one file each. A file's `register` adds its arguments to a parser and sets `run`."""

COMMANDS = {
    "start": "makes a folder a collection: a commented magpie.toml, and a place for magpie's own files",
    "scan": "reads what is on disk into the catalogue",
    "intake": "plans bringing downloads in: unpacked, joined, each thing in its place or in the inbox",
    "find": "lists items; without words all",
    "show": "shows all about an item: what it is and why, its files, where it should be",
    "explain": "says how a name or file is understood, field by field, with the evidence",
    "settle": "settles what is doubtful: grouped questions, best candidates first",
    "titles": "reads title lists, asks title services, serves a list",
    "tag": "puts words of your own on items, takes them off, renames, merges and colours them",
    "sheet": "makes a worksheet of items to fill in, and takes what was filled in",
    "view": "makes folders of links that hold what find words name, and keeps them up to date",
    "tidy": "plans names and places by the shelves' namings",
    "copies": "finds copies, chooses by rules which one stays, plans holding or linking the others",
    "plans": "lists the plans that wait, shows one, or drops one",
    "apply": "applies a plan, the newest if none is named",
    "undo": "takes back a change, the newest not undone if none is named",
    "redo": "does a change again that was taken back, or the rest of one that was stopped",
    "held": "lists what the holding area has, brings it back, or empties it for good",
    "forget": "lets go of what is missing for good; no file is touched",
    "history": "lists the changes: when, who, how many, undone or not",
    "demo": "makes the demo collection and runs a tour on it",
}
"""Every command with its one sentence, in the order of the work."""
