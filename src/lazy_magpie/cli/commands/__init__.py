"""The commands, one file each. A file's `register` adds its arguments to a parser and sets `run`."""

GROUPS = {
    "Set up": {
        "start": "turn a folder into a collection",
        "scan": "read what is on disk into the catalogue",
        "titles": "add, search and serve title lists, and ask title services",
        "demo": "make the demo collection and run a tour on it",
    },
    "Look": {
        "status": "see what is new, in doubt or pending, and the next step",
        "find": "list items (all, if no words are given)",
        "show": "show all about an item",
        "report": "show what there is, how it grew and what it needs, with charts",
        "browse": "look at pictures and the report in a browser on this machine",
        "check": "say what is wrong, what a player would not see, and how to mend it",
        "explain": "say how a name, a file or a folder is understood, and why",
    },
    "Name and file": {
        "intake": "plan how to bring downloads in",
        "settle": "settle what is in doubt",
        "tidy": "plan names and places from each shelf's naming scheme",
        "companions": "plan the pictures and data files that a player reads beside things",
    },
    "By hand": {
        "rename": "plan new names for files or folders",
        "move": "plan moving things to a folder, the attic or the inbox",
        "new": "make a folder for work to come, from your template",
        "hold": "plan taking things away into the holding area",
        "unpack": "plan unpacking archives where they lie",
        "pack": "plan packing things, one archive each",
        "convert": "plan turning things into another form, by a program of yours",
    },
    "Reference lists": {
        "match": "compare games with reference lists, and plan putting them right",
    },
    "Devices and backups": {
        "send": "plan what a card, a player or a machine should hold",
        "mirror": "compare a backup, bring it up to date, and mend what has rotted",
    },
    "Tags": {
        "tag": "add, remove, rename, merge and colour tags",
        "sheet": "make a worksheet of items, and take in what was filled in",
        "view": "make folders of links to matching items",
    },
    "Copies": {
        "copies": "find copies, and plan to hold or link those that can go",
    },
    "Change and undo": {
        "plans": "list pending plans, show one, or drop one",
        "apply": "apply a plan (default: the newest)",
        "undo": "undo a change (default: the latest)",
        "redo": "redo an undone change, or finish one that was stopped",
        "held": "list what the holding area has, restore it, or empty it",
        "forget": "forget files that are gone for good",
        "history": "list changes",
    },
}
"""What one wants to do, and the commands for it, each with its one sentence; in the order of the work."""

COMMANDS = {name: text for group in GROUPS.values() for name, text in group.items()} | {
    "help": "show the help of a command"
}
"""Every command with its one sentence."""

MEANT = {
    "find": "ls list search query filter grep items",
    "show": "info details cat view-item inspect",
    "copies": "dedupe dedup duplicates dupes twins compare",
    "hold": "remove rm delete del clean",
    "tidy": "organize organise sort file reorganize arrange",
    "rename": "ren renumber",
    "move": "mv archive",
    "new": "mkdir project",
    "unpack": "extract unzip unrar",
    "pack": "zip compress",
    "convert": "transcode",
    "intake": "import add ingest get",
    "scan": "update refresh index rescan sync",
    "start": "init create setup",
    "settle": "fix resolve identify answer",
    "held": "trash bin",
    "held restore": "restore recover",
    "undo": "revert rollback back",
    "apply": "commit run do execute",
    "plans": "preview pending plan",
    "history": "log changes",
    "status": "stat summary",
    "browse": "web gallery look",
    "report": "charts chart stats statistics dashboard",
    "titles": "lookup lists",
    "match": "verify audit checksum complete missing",
    "tag": "label tags keyword",
    "sheet": "export spreadsheet excel csv",
    "help": "man usage commands",
}
"""Words that people try, by the command that does what they mean."""
