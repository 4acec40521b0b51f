"""One bad file, one bad server, one bad word: each costs itself, says so, and reaches neither terminal nor disk."""

from __future__ import annotations

import http.client
import io
import json
import os
import resource
import socket
import subprocess
import tarfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from lazy_magpie.identify import identify
from lazy_magpie.titles import web
from lazy_magpie.titles.reconciliation_server import Server
from tests.conftest import Collection, program
from tests.heaps import LONG_AGO, put

EVIL = "a\x1b]0;owned\x07b\x9b31mc\u202ed\x1b[2J"


@pytest.mark.parametrize("ending", "ttf otf woff pes mkv mp3 zip gb srt jpg pdf cue exe".split())
@pytest.mark.parametrize(
    "stem", ["_", "-", "__", " ", "()", "[]", ".", "'", "²", "٣", "\udcff", "x" * 250, "S E", "-1"]
)
def test_no_name_stops_a_reading(stem: str, ending: str) -> None:
    assert identify(f"Kits/{stem}.{ending}").kind


def test_a_reader_of_names_that_fails_costs_one_file(heap: Collection, monkeypatch: pytest.MonkeyPatch) -> None:
    from lazy_magpie.scan import folder_unit

    real = identify

    def failing(path: str, *more: Any) -> Any:
        if "Tern" in path:
            raise IndexError("nobody foresaw this")
        return real(path, *more)

    monkeypatch.setattr(folder_unit, "identify", failing)
    put(heap, "Heap/Tern (1999).mkv", "Heap/Kelp (2001).mkv")
    heap.ok("scan", "--jobs", "1")
    found = {item["path"]: item["state"] for item in heap.ok("find", "--json").lines}
    assert found["Heap/Kelp (2001).mkv"] == "clear" and found["Heap/Tern (1999).mkv"] == "unknown"
    assert "name not understood: IndexError" in heap.ok("show", "Heap/Tern (1999).mkv", code=1).out


def _with_long_header(path: Path, size: int) -> None:
    """Write a tar whose second header says that a name has that many bytes; they are all there."""
    with open(path, "wb") as file:
        info = tarfile.TarInfo("././@LongLink")
        info.type, info.size = b"L", size
        file.write(info.tobuf(tarfile.GNU_FORMAT))
        file.truncate(file.tell() + -(-size // 512) * 512 + 2048)
    os.utime(path, (LONG_AGO, LONG_AGO))


def test_a_tar_with_an_endless_header_takes_no_memory(heap: Collection) -> None:
    _with_long_header(heap.root / "Downloads/Kit.tar", 1_500_000_000)
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    plan = heap.run("intake", "Downloads", "--json").json
    assert any("Kit.tar" in left["path"] for left in plan["left"]) and not plan["steps"]
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 200_000  # KiB


def test_a_tar_that_was_cut_between_two_members_has_no_end(heap: Collection) -> None:
    out = io.BytesIO()
    with tarfile.open(fileobj=out, mode="w") as packed:
        for name in ("fpc_Fog/p1.jpg", "fpc_Fog/p2.jpg"):
            info = tarfile.TarInfo(name)
            info.size = 512
            packed.addfile(info, io.BytesIO(bytes(512)))
    path = heap.root / "Downloads/fpc_Fog_Papers.tar"
    path.write_bytes(out.getvalue()[:1024])
    os.utime(path, (LONG_AGO, LONG_AGO))
    (left,) = heap.run("intake", "Downloads", "--json").json["left"]
    assert "has no end" in left["why"]


# --- services --------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "body", [b"[" * 100_000, b'{"a": 1e999}', b'{"a": NaN}', b'{"a": 99999999999999999999}', b"\xff\xfe", b""]
)
def test_an_answer_that_is_none_is_one_sentence(body: bytes) -> None:
    with pytest.raises(web.ServiceError, match="not JSON"):
        web._json(body, "http://titles.example/")


def test_half_a_character_is_replaced() -> None:
    assert web._json(b'{"name": "a\\ud800b"}', "http://titles.example/") == {"name": "a?b"}


@pytest.fixture
def served(tmp_path: Path) -> Iterator[Server]:
    import threading

    (tmp_path / "list.csv").write_text("kind,title,year\nmovie,Tern,1985\n")
    server = Server(tmp_path / "list.csv", 0)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield server
    server.shutdown()
    server.server_close()


def _asked(server: Server, method: str, path: str, body: str = "", **headers: str) -> tuple[int, str, Any]:
    port = server.server_address[1]
    link = http.client.HTTPConnection("127.0.0.1", port, timeout=5)
    link.putrequest(method, path, skip_host="Host" in headers)
    for name, value in headers.items():
        link.putheader(name.replace("_", "-"), value)
    link.endheaders(body.encode() or None)
    answer = link.getresponse()
    return answer.status, answer.read().decode(), answer.headers


def test_only_this_machine_is_answered_and_no_page_from_elsewhere(served: Server) -> None:
    status, text, headers = _asked(served, "GET", "/")
    assert status == 200 and "versions" in text and "Access-Control-Allow-Origin" not in headers
    for wrong in ({"Host": "evil.example"}, {"Origin": "http://evil.example"}, {"Origin": "null"}):
        status, text, _ = _asked(served, "GET", "/", **wrong)
        assert status == 403 and "Tern" not in text
    assert _asked(served, "GET", "/", Host="localhost:1", Origin="http://127.0.0.1:9")[0] == 200


@pytest.mark.parametrize("length", ["-1", "x", "", "1e3", "99999999999999999999999", "4294967296"])
def test_a_length_that_is_none_is_an_answer(served: Server, length: str) -> None:
    status, text, _ = _asked(served, "POST", "/", Content_Length=length)
    assert status in (411, 413) and "error" in json.loads(text)


@pytest.mark.parametrize(
    "query",
    [
        "queries=" + "[" * 5000,
        "queries=7",
        "queries={%22a%22:7}",
        "queries={%22a%22:{%22query%22:1e999,%22limit%22:1e999}}",
        "queries={%22a%22:{%22query%22:%22x%22,%22properties%22:[{%22pid%22:%22year%22,%22v%22:1e999}]}}",
        "extend={%22ids%22:[%2299999999999999999999999%22],%22properties%22:[{%22id%22:%22year%22}]}",
        "extend=[]",
    ],
)
def test_a_request_that_is_none_is_an_answer(served: Server, query: str, capfd: pytest.CaptureFixture[str]) -> None:
    assert _asked(served, "GET", f"/?{query}")[0] in (200, 400)
    assert _asked(served, "GET", "/view?id=99999999999999999999999")[0] in (400, 404)
    with socket.create_connection(("127.0.0.1", served.server_address[1])) as link:
        link.sendall(b"POST / HTTP/1.0\r\nHost: localhost\r\nContent-Length: 900\r\n\r\n")
    assert "Traceback" not in capfd.readouterr().err


def test_notes_and_ids_of_a_strange_drive_stop_nothing(heap: Collection) -> None:
    put(heap, "Heap/Kelp (2001).mkv")
    heap.ok("scan")
    status = (heap.root / "Heap/Kelp (2001).mkv").stat()
    good = {"path": "Heap/Kelp (2001).mkv", "size": status.st_size, "mtime": status.st_mtime_ns}
    answers: list[Any] = [7, {}, {"kind": "none", "fields": {}, "by": "x"}, {"kind": "movie", "fields": 3, "by": "x"}]
    answers.append({"kind": "movie", "fields": {"year": 10**30, "title": EVIL}, "by": "person"})
    lines = [json.dumps({**good, "settled": answer}) for answer in answers]
    lines += ["[" * 50_000, '{"path": "x", "size": 1e999, "mtime": 1, "tags": []}', json.dumps({**good, "tags": 3})]
    with open(heap.root / ".magpie/notes.jsonl", "a") as file:
        file.write("\n".join(lines) + "\n")
    (heap.root / ".magpie/root.json").write_text("[" * 50_000)
    for more in ("", "-wal", "-shm"):
        (heap.root / f".magpie/catalogue.db{more}").unlink(missing_ok=True)
    heap.ok("scan")
    assert heap.ok("find", "--json").lines[0]["state"] == "clear"


# --- what reaches the terminal, and spreadsheets ---------------------------------------------------------------------


def _is_plain(text: str) -> bool:
    return not any(
        (ord(letter) < 32 and letter not in "\n\t") or 0x7F <= ord(letter) < 0xA0 or letter in "\u202e\u2066"
        for letter in text
    )


def test_nothing_that_acts_on_a_terminal_reaches_it(heap: Collection) -> None:
    put(heap, "Heap/Kelp (2001).mkv", "Old/Kelp (2001).mkv", text="same")
    (heap.root / "list.csv").write_text(f'kind,title,year,maker\nmovie,Kelp {EVIL},2001,"{EVIL}"\n')
    (heap.root / "magpie.toml").write_text((heap.root / "magpie.toml").read_text() + "[field.note]\n")
    heap.ok("scan")
    item = heap.ok("find", "kelp", "--json").lines[0]["path"]
    heap.run("settle", item, "--set", f"title={EVIL}", f"note={EVIL}", f"edition={EVIL}")
    heap.run("titles", "add", str(heap.root / "list.csv"))
    heap.run("copies", "--hold", "--keep", "folder:Heap", "--now")
    manifest = next((heap.root / ".magpie/held").glob("*/manifest.jsonl"))
    line = json.loads(manifest.read_text().splitlines()[0])
    manifest.write_text(json.dumps({**line, "why": EVIL}) + "\n")
    for words in (
        ("show", item), ("find",), ("find", "--total"), ("settle",), ("titles", "list"), ("titles", "search", "kelp"),
        ("held",), ("plans",), ("history",), ("copies",), ("tidy",), ("find", EVIL), ("show", EVIL),
    ):  # fmt: skip
        for form in ((), ("--json",)):
            answer = heap.run(*words, *form)
            assert _is_plain(answer.out) and _is_plain(answer.err), (words, form, answer)
    csv = heap.ok("find", "--csv", "--columns", "title,path").out
    assert "\x1b" not in csv


@pytest.mark.parametrize("start", "=+-@")
def test_csv_is_inert_for_spreadsheets(heap: Collection, start: str) -> None:
    put(heap, f"Heap/{start}cmd (2001).mkv")
    heap.ok("scan")
    heap.run("settle", f"Heap/{start}cmd (2001).mkv", "--set", f"title={start}1+1")
    assert f"'{start}1+1" in heap.ok("find", "--csv", "--columns", "title").out


# --- numbers, full disks ---------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "words",
    [
        ("undo", "9" * 20), ("history", "9" * 20), ("redo", "-5"), ("apply", "9" * 20), ("scan", "--jobs", "-3"),
        ("scan", "--jobs", "9" * 20), ("held", "--older-than", f"{10**18}y"), ("find", "year", "over", "9" * 30),
        ("find", "size", "over", "9" * 30), ("find", "--limit", "9" * 30), ("titles", "search", "x", "--year", "9" * 9),
        ("settle", "Heap/Kelp (2001).mkv", "--set", f"year={'9' * 25}"), ("explain", "--jobs", "-1", "x"),
    ],
)  # fmt: skip
def test_a_number_out_of_range_is_one_sentence(heap: Collection, words: tuple[str, ...]) -> None:
    put(heap, "Heap/Kelp (2001).mkv")
    heap.ok("scan")
    answer = heap.run(*words)
    assert answer.code in (0, 1, 2) and "inside magpie" not in answer.err and answer.err.count("\n") <= 2, answer


def test_a_full_disk_under_the_catalogue_is_one_sentence(tmp_path: Path) -> None:
    root = tmp_path / "small"
    root.mkdir()
    command = ["mount", "-t", "tmpfs", "-o", "size=700k", "tmpfs", str(root)]
    if os.geteuid() or subprocess.run(command, check=False, capture_output=True).returncode:
        pytest.skip("only root can mount")
    try:
        (root / "magpie.toml").write_text('[shelf.films]\nkind = "movie"\nfolder = "Films"\n')
        for number in range(3000):
            (root / f"Kelp Ballad {number} (2001) with a name that takes some room.mkv").touch()
        answer = program("-C", str(root), "scan")
        assert answer.code == 3 and answer.err.count("\n") == 1 and "Traceback" not in answer.err, answer
        assert "space" in answer.err or "full" in answer.err
    finally:
        subprocess.run(["umount", "-l", str(root)], check=True)
