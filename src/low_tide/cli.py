"""The `low-tide` command."""

from __future__ import annotations

import argparse
import contextlib
import gc
import json
import logging
import os
import signal
import socket
import sys
import tempfile
import textwrap
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from platformdirs import user_data_path

from low_tide.core.judging.findings import RANK

if TYPE_CHECKING:
    from low_tide.app.live import Live
    from low_tide.app.sharing import Sharing
    from low_tide.store.home import Home

UNREADABLE = 64
DEFAULT_PORT = 8170
COLLECT_AT = (20_000, 20, 20)
"""A judgement makes some ten thousand short-lived values; the usual 700 would stop it again and again."""


def _home_folder() -> Path:
    given = os.environ.get("LOW_TIDE_HOME")
    return Path(given) if given else user_data_path("low-tide", appauthor=False)


def _port() -> int:
    given = os.environ.get("LOW_TIDE_PORT", str(DEFAULT_PORT))
    if not (given.isascii() and given.isdigit()) or len(given) > 5 or int(given) > 65535:
        raise SystemExit(f"LOW_TIDE_PORT: “{given}” is not a port from 0 to 65535.")
    return int(given)


def _serve(folder: Path, demo: bool, args: argparse.Namespace) -> int:
    # What modules are made of does not go away again: to look for it would only take time.
    gc.disable()
    from low_tide.app.errors import Refusal
    from low_tide.app.kept_audio import settle
    from low_tide.store.files import open_home
    from low_tide.store.home import alone, clear_leftovers
    from low_tide.web.listening import CertificateError, doors, encrypting, local_server
    from low_tide.web.server import create_app

    gc.enable()
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)
    port = _port()
    taken = f"Port {port} is taken. Choose another with LOW_TIDE_PORT, or 0 for any free one."
    if bool(args.cert) != bool(args.key):
        print("--cert and --key belong together: give both.", file=sys.stderr)
        return 1
    try:
        tls = encrypting(Path(args.cert), Path(args.key)) if args.cert else None
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            probe.bind(("127.0.0.1", port))
    except (CertificateError, OSError) as error:
        print(error if isinstance(error, CertificateError) else taken, file=sys.stderr)
        return 1
    with contextlib.ExitStack() as held:
        held.enter_context(alone(folder))
        home = open_home(folder)
        settle(home)
        clear_leftovers(home)
        if demo:
            _lay_out(home)
        app = create_app(home, demo)
        try:
            server = local_server(app, port)
        except OSError:
            print(taken, file=sys.stderr)
            return 1
        sharing = app.config["SHARING"]
        names = frozenset(name.lower() for name in args.name)
        sharing.open_door, sharing.encrypted = doors(app, server.effective_port, names, tls), tls is not None
        held.callback(sharing.end)
        try:
            shared = _share(sharing, args.share)
        except Refusal as error:
            print(f"Nothing is shared. {error}", file=sys.stderr)
            return 1
        # What is here now stays to the end: not looked through again at every collection.
        gc.collect()
        gc.freeze()
        gc.set_threshold(*COLLECT_AT)
        said = [f"Low Tide is at http://127.0.0.1:{server.effective_port}/  (stop with Ctrl+C)"]
        said += [f"Shared at {url}  (let a device in at the desk: Share, Pair a device)" for url in shared]
        print("\n".join(said), flush=True)
        signal.signal(signal.SIGINT, partial(_stop, app.config["LIVE"]))
        with contextlib.suppress(KeyboardInterrupt):
            server.run()
    return 0


def _lay_out(home: Home) -> None:
    """Fill a folder with the lightship; at a terminal it is told how far that is."""
    from low_tide.demo.fill import filling

    for part in filling(home):
        if sys.stderr.isatty():
            end = "\n" if part == 1 else ""
            print(f"\rLaying out the lightship, {100 * part:.0f} %", end=end, file=sys.stderr, flush=True)


def _stop(live: Live, *_: object) -> None:
    """At Ctrl+C: pages that follow what changes would keep the server waiting for each of them."""
    live.stop()
    raise KeyboardInterrupt


def _share(sharing: Sharing, asked: list[str] | None) -> list[str]:
    """Share as the command line asks for; the URLs. Refusal where nothing can be."""
    from low_tide.app.errors import Invalid

    if asked is None:
        return []
    chosen = asked or [each.address for each in sharing.state().addresses if each.private]
    if not chosen:
        raise Invalid("This machine has no address on a private network; name one: --share ADDRESS.")
    sharing.begin(chosen)
    return [each.url for each in sharing.state().listening]


def serve(args: argparse.Namespace) -> int:
    return _serve(_home_folder(), False, args)


def demo(args: argparse.Namespace) -> int:
    with tempfile.TemporaryDirectory(prefix="low-tide-demo-") as folder:
        return _serve(Path(folder), True, args)


def _read(file: str) -> tuple[object, object] | None:
    from low_tide.core.rig.hookup import HookupError
    from low_tide.formats.documents import MOST_BYTES, read_hookup_file
    from low_tide.formats.sentences import FormatError

    try:
        # One byte more than may be, so that a file without end is told and not read.
        with sys.stdin.buffer if file == "-" else Path(file).open("rb") as source:
            return read_hookup_file(source.read(MOST_BYTES + 1))
    except OSError as error:
        print(f"{file}: {error.strerror}.", file=sys.stderr)
    except (FormatError, HookupError) as error:
        for said in error.problems:
            print(f"{file}: {said}", file=sys.stderr)
    return None


MARKS = {"stop": "STOP    ", "caution": "CAUTION ", "note": "note    ", "fine": "fine    "}


def check(args: argparse.Namespace) -> int:
    from low_tide.core.presentation.analysis import analyse
    from low_tide.formats.documents import dump

    read = _read(args.file)
    if read is None:
        return UNREADABLE
    rig = read[0]
    result = analyse(rig)  # type: ignore[arg-type]
    if args.json:
        print(json.dumps(dump(result), ensure_ascii=False, indent=1))
        return result.verdict.exit_code
    print(f"{result.verdict.words}  ({result.verdict.stops} stops, {result.verdict.cautions} cautions)\n")
    for fact in result.facts:
        print(f"  {fact.name}: {fact.value} {fact.unit}".rstrip() + (f" ({fact.remark})" if fact.remark else ""))
    print()
    for finding in sorted(result.findings, key=lambda f: -RANK[f.severity]):
        print(f"{MARKS[finding.severity]}{finding.text}")
        for line in textwrap.wrap(finding.reason, 88):
            print(f"        {line}")
        if finding.fix:
            print(f"        → {finding.fix.label}")
    if result.typical:
        print("\nTypical or estimated, not measured:")
        for said in result.typical:
            print(f"  {said}")
    return result.verdict.exit_code


def export(args: argparse.Namespace) -> int:
    from low_tide.core.presentation.analysis import analyse
    from low_tide.formats.spice import result_json, write_netlist
    from low_tide.formats.tables import analysis_csv

    read = _read(args.file)
    if read is None:
        return UNREADABLE
    rig = read[0]
    if args.to == "json":
        text = json.dumps(result_json(rig), ensure_ascii=False, indent=1) + "\n"  # type: ignore[arg-type]
    elif args.to == "spice":
        text = write_netlist(rig)  # type: ignore[arg-type]
    else:
        text = analysis_csv(rig, analyse(rig))  # type: ignore[arg-type]
    if args.output:
        try:
            Path(args.output).write_text(text, encoding="utf-8")
        except OSError as error:
            print(f"{args.output}: {error.strerror}.", file=sys.stderr)
            return 1
    else:
        sys.stdout.write(text)
    return 0


def example(args: argparse.Namespace) -> int:
    from low_tide.demo.gear import GEAR
    from low_tide.demo.hookups import HOOKUPS
    from low_tide.formats.documents import dump, write_hookup_file

    if args.list or not args.name:
        for name, hookup in HOOKUPS.items():
            print(f"{name:16} {hookup.name}")
        return 0
    hookup = HOOKUPS.get(args.name)
    if hookup is None:
        print(f"There is no example “{args.name}”; low-tide example --list names them.", file=sys.stderr)
        return UNREADABLE
    data = write_hookup_file(dump(hookup), [dump(GEAR[i]) for i in hookup.gear_ids()])
    sys.stdout.write(data.decode())
    return 0


def backup(args: argparse.Namespace) -> int:
    from low_tide.store.archives import manifest_of
    from low_tide.store.backups import MANIFEST, backup
    from low_tide.store.home import StoreError, home_at

    target = Path(args.file)
    if target.exists() and manifest_of(target) != MANIFEST:
        raise StoreError(f"{target} is there already and is no backup; choose another name.")
    size = backup(home_at(_home_folder()), target)
    print(f"{args.file}: {size / 1e6:.1f} MB")
    return 0


def restore(args: argparse.Namespace) -> int:
    from low_tide.store.restoring import restore

    kept = restore(_home_folder(), Path(args.file))
    print("Restored." + (f" What was there before is in {kept}" if kept else ""))
    return 0


def parser() -> argparse.ArgumentParser:
    top = argparse.ArgumentParser(prog="low-tide", description="Valve amps into load boxes: planned, judged, run.")
    commands = top.add_subparsers(required=True, metavar="COMMAND")

    def command(name: str, run: object, help: str, failed: str = "") -> argparse.ArgumentParser:
        added = commands.add_parser(name, help=help, description=help)
        added.set_defaults(run=run, failed=failed)
        return added

    served = (
        command("serve", serve, "Serve your own data on this machine."),
        command("demo", demo, "Serve the lightship, an invented studio, in a throwaway folder."),
    )
    for each in served:
        shared = "share with devices on the local network too, at these addresses of this machine or all private ones"
        each.add_argument("--share", nargs="*", metavar="ADDRESS", help=shared)
        named = "a name that this machine goes by on the network, besides its addresses"
        each.add_argument("--name", action="append", default=[], metavar="NAME", help=named)
        each.add_argument("--cert", metavar="FILE", help="certificate (PEM) to encrypt what is shared, with --key")
        each.add_argument("--key", metavar="FILE", help="its private key (PEM), unencrypted")
    checks = command("check", check, "Judge a hook-up file. Exit 0 clear, 1 caution, 2 stop, 64 unreadable.")
    checks.add_argument("file", help="a hook-up file, or - for standard input")
    checks.add_argument("--json", action="store_true", help="print the whole result as JSON")
    exports = command("export", export, "Write a hook-up's whole result.")
    exports.add_argument("file", help="a hook-up file, or - for standard input")
    exports.add_argument("--to", choices=("json", "csv", "spice"), required=True)
    exports.add_argument("-o", "--output", help="a file instead of standard output")
    examples = command("example", example, "Print one of the lightship's hook-ups as a file.")
    examples.add_argument("name", nargs="?")
    examples.add_argument("--list", action="store_true", help="list their names")
    backups = command("backup", backup, "Write all your data into one ZIP.", "No backup was written. ")
    backups.add_argument("file")
    about = "Put a backup in place; what was there is kept beside it."
    command("restore", restore, about, "Nothing was changed. ").add_argument("file")
    return top


def main(argv: list[str] | None = None) -> int:
    args = parser().parse_args(argv)
    try:
        code: int = args.run(args)
        sys.stdout.flush()
    except BrokenPipeError:  # whoever read the output has had enough of it
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 1
    except Exception as error:
        from low_tide.store.troubles import TROUBLES, trouble

        if not isinstance(error, TROUBLES):
            raise
        print(f"{args.failed}{trouble(error).said}", file=sys.stderr)
        return 1
    return code


if __name__ == "__main__":
    sys.exit(main())
