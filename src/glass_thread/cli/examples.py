"""Examples that the help of each verb ends with."""

from __future__ import annotations

EXAMPLES: dict[str, tuple[str, ...]] = {
    "demo": ("demo", "demo --port 4400 --data /tmp/try"),
    "serve": (
        "serve",
        "serve --data ~/songs --port 4400",
        "serve --host 0.0.0.0",
        "serve --behind-proxy --name studio.example.org",
    ),
    "worker": ("worker --server http://studio:4380",),
    "analyse": ("analyse take.wav", "analyse take.wav --json found.json --f0 pitch.csv --sensitivity 1"),
    "tune": (
        "tune take.wav tuned.wav --pull 0.8 --vibrato 0.7 --key 'F# minor'",
        "tune take.wav tuned.wav --movement 0.5 --within 10",
        "tune take.wav tuned.wav --edits edits.json --lower 1.5",
        "tune take.wav tuned.wav --curve curve.csv --float",
    ),
    "follow": (
        "follow lead.wav double.wav tight.wav --timing 0.9 --pitch 0.5",
        "follow lead.wav harmony.wav out.wav --level 0.7 --json pairs.json",
    ),
    "double": ("double take.wav double.wav", "double take.wav two.wav --voices 2 --seed 7"),
    "harmony": (
        "harmony take.wav third.wav --key 'D minor' --steps 2",
        "harmony take.wav octave.wav --semitones -12",
        "harmony take.wav line.wav --midi line.mid --match following",
    ),
    "midi": ("midi take.wav melody.mid --tempo 96",),
    "chords": ("chords backing.wav", "chords backing.wav --tempo 84 --json chords.json"),
    "words": ("words lead.wav lyrics.txt", "words lead.wav lyrics.txt --language en --json syllables.json"),
    "host": ("host ~/handoff/song", "host --check ~/handoff/song"),
    "versions": (
        "versions",
        "versions --track Lead --make Softer --begin Tuned",
        "versions --track Lead --compare Tuned Softer",
    ),
    "sheet": (
        "sheet --track Lead",
        "sheet --song 'Lanterns on the Quay' --track Lead --version Softer --against Tuned --csv changes.csv",
    ),
    "singer": ("singer --track Lead", "singer --track Lead --scope singer --csv numbers.csv"),
    "tidy": ("tidy", "tidy --data ~/songs", "tidy --removed"),
    "check": ("check", "check --data ~/songs --no-prints"),
    "rescue": ("rescue ~/songs ~/songs-rescued",),
    "pack": ("pack 'Lanterns on the Quay' lanterns.gtsong", "pack 3f2a…c1 song.gtsong --data ~/songs"),
    "unpack": ("unpack lanterns.gtsong", "unpack lanterns.gtsong --data ~/songs"),
    "backup": ("backup ~/songs-monday", "backup /mnt/disk/songs --data ~/songs"),
    "codes": ("codes", "codes --add 'the laptop'", "codes --add client --listening", "codes --withdraw client"),
    "bench": ("bench --voices tenor,alto --minutes 1", "bench edits", "bench edits --only hostile --json out.json"),
    "build-demo": ("build-demo",),
    "warm": ("warm",),
    "openapi": ("openapi > openapi.json",),
}


def examples_text(verb: str) -> str:
    """The examples of a verb, as its help shows them."""
    return "examples:\n" + "\n".join(f"  glass-thread {line}" for line in EXAMPLES[verb])
