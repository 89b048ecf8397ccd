import { useState } from "react";
import { Link } from "react-aria-components";
import { signed } from "../../document/music/pitch_names";
import type { PrintIn, PrintSummaryOut } from "../../document/schema";
import { store } from "../../document/track/store";
import { vocalsOf } from "../../document/track/vocals";
import { printedIn, printFiles, type PrintWork, stretchIn, usePrintSummary } from "../../commands/song/printing";
import { useEditor } from "../../session/useStore";
import { CheckBox } from "../ui/CheckBox";
import { Button, Field, MainButton, Quiet, Segments } from "../ui/controls";
import { Picker } from "../ui/Picker";
import { ProgressLine } from "../ui/ProgressLine";
import { TypedField } from "../ui/TypedField";
import { Rows } from "./print_parts";

const PATTERN = "{track} {version}";
const RATES = [
  ["own", "The recording’s own rate"],
  ["44100", "44.1 kHz"],
  ["48000", "48 kHz"],
  ["88200", "88.2 kHz"],
  ["96000", "96 kHz"],
] as const;
const WAV_DEPTHS = [
  ["16", "16 bit"],
  ["24", "24 bit"],
  ["32", "32-bit float"],
] as const;

type Reach = "this" | "all" | "length" | "mix";

/** What of a print is as recorded, in its place or moved, and what is rendered. */
function sharesText({ untouched_share, moved_share, borrowed_share }: PrintSummaryOut): string {
  const percent = (share: number): string => `${(100 * share).toFixed(2)} %`;
  const lent = borrowed_share > 0 ? `, ${percent(borrowed_share)} borrowed` : "";
  if (moved_share === 0) return `${percent(untouched_share)} of samples stay bit-identical${lent}`;
  const rendered = percent(Math.max(0, 1 - untouched_share - moved_share - borrowed_share));
  return `Bit-identical ${percent(untouched_share)} in place, ${percent(moved_share)} moved${lent}; ${rendered} rendered`;
}

function counted(count: number, one: string): string {
  return count === 1 ? `1 ${one}` : `${count} ${one}s`;
}

/** What of the voice nothing was asked of and still lies up to half a cycle off, after notes too short to bring it back. */
function displacedText({ displaced }: PrintSummaryOut): string {
  const places = displaced.slice(0, 3).map(([from]) => `${from!.toFixed(2)} s`);
  const more = displaced.length > 3 ? ` and ${displaced.length - 3} more` : "";
  const total = displaced.reduce((sum, [from, to]) => sum + to! - from!, 0);
  return `by up to half a cycle: ${total.toFixed(2)} s after short notes, from ${places.join(", ")}${more}`;
}

function levelText({ peak_dbfs, true_peak_dbtp, integrated_lufs }: PrintSummaryOut): string {
  const loud = integrated_lufs == null ? "silent" : `${signed(integrated_lufs, 1)} LUFS`;
  return `${loud}, peak ${signed(peak_dbfs, 1)} dBFS, true peak ${signed(true_peak_dbtp, 1)} dBTP`;
}

/** What is known of the whole before it is printed. */
function Facts({ summary }: { summary: PrintSummaryOut | null }) {
  const changed = (found: PrintSummaryOut): string =>
    `${counted(found.notes_changed, "note")}; air and gaps: ${found.air_changed}`;
  return (
    <>
      <Quiet>Untouched</Quiet>
      <strong>{summary ? sharesText(summary) : "…"}</strong>
      <Quiet>Changed</Quiet>
      <span>{summary ? changed(summary) : "…"}</span>
      {summary && summary.borrowed.length > 0 && (
        <>
          <Quiet>Borrowed</Quiet>
          <span>{summary.borrowed.map((name) => `from ${name}`).join("; ")}</span>
        </>
      )}
      {summary && summary.displaced.length > 0 && (
        <>
          <Quiet>Off its place</Quiet>
          <span>{displacedText(summary)}</span>
        </>
      )}
      <Quiet>Loudness</Quiet>
      <span>{summary ? levelText(summary) : "…"}</span>
    </>
  );
}

function FormRows(props: {
  container: "wav" | "flac";
  setContainer: (next: "wav" | "flac") => void;
  depth: string;
  setDepth: (next: string) => void;
  rate: string;
  setRate: (next: string) => void;
}) {
  const { container, depth, setDepth } = props;
  return (
    <>
      <span>File</span>
      <span className="line">
        <Segments
          label="File type"
          options={[
            ["wav", "WAV"],
            ["flac", "FLAC"],
          ]}
          value={container}
          onChange={(next) => {
            props.setContainer(next);
            if (next === "flac" && depth === "32") setDepth("24");
          }}
        />
        <Segments
          label="Depth"
          options={container === "wav" ? WAV_DEPTHS : WAV_DEPTHS.slice(0, 2)}
          value={depth as "16" | "24" | "32"}
          onChange={setDepth}
        />
      </span>
      <span>Rate</span>
      <Picker label="Sample rate" options={RATES} value={props.rate} onChange={props.setRate} />
    </>
  );
}

/** Which part is printed: everything, or what is selected, with fades. */
function PartRow(props: {
  part: "whole" | "here";
  setPart: (next: "whole" | "here") => void;
  fade: number;
  setFade: (ms: number) => void;
}) {
  const there = useEditor((s) => stretchIn(s) !== null);
  return (
    <>
      <span>Part</span>
      <span className="line">
        <Segments
          label="Part"
          options={[
            ["whole", "Whole length"],
            ["here", "Selection"],
          ]}
          value={there ? props.part : "whole"}
          disabled={!there}
          onChange={props.setPart}
        />
        {props.part === "here" && there && (
          <>
            <span>fades</span>
            <span style={{ width: 76 }}>
              <TypedField
                label="Fades (ms)"
                text={`${props.fade} ms`}
                onCommit={(typed) => {
                  const ms = Number.parseFloat(typed);
                  if (!(ms >= 0 && ms <= 5000)) return false;
                  props.setFade(ms);
                  return true;
                }}
              />
            </span>
          </>
        )}
      </span>
    </>
  );
}

function HandoffRow(props: {
  folder: string;
  handoff: boolean;
  setHandoff: (on: boolean) => void;
  replace: boolean;
  setReplace: (on: boolean) => void;
}) {
  return (
    <>
      <span>Hand-off</span>
      <span className="line">
        <CheckBox checked={props.handoff} onChange={props.setHandoff}>
          {`Put it into “${props.folder}”`}
        </CheckBox>
        {props.handoff && (
          <CheckBox checked={props.replace} onChange={props.setReplace}>
            Replace what is there
          </CheckBox>
        )}
      </span>
    </>
  );
}

function ReachRow({ reach, setReach }: { reach: Reach; setReach: (reach: Reach) => void }) {
  const vocals = useEditor((s) => vocalsOf(s.song).length);
  const name = useEditor((s) => printedIn(s)?.name);
  const options: [Reach, string][] = [["this", name ?? "This track"]];
  if (vocals > 1) options.push(["all", `All ${vocals} vocals`], ["length", "All as one length"]);
  options.push(["mix", "Mix"]);
  return <Segments label="What is printed" options={options} value={reach} onChange={setReach} />;
}

function MixRow() {
  return (
    <>
      <span />
      <Quiet>
        All tracks that are not muted, with their levels and the backing. Everything else is printed at unity.
      </Quiet>
    </>
  );
}

/** Tenths of a decibel by which a print over full scale is too loud, upwards. */
function tooLoud(over: number): number {
  return Math.ceil(over * 10) / 10;
}

function OverRow({ over, lower, setLower }: { over: number; lower: boolean; setLower: (on: boolean) => void }) {
  return (
    <>
      <span />
      <CheckBox
        checked={lower}
        onChange={setLower}
      >{` lower the whole print by ${tooLoud(over).toFixed(1)} dB (or keep 32-bit float)`}</CheckBox>
    </>
  );
}

/** How far a print is, and the files once they are there. */
function Made({ work }: { work: PrintWork | null }) {
  if (work === null) return null;
  if (work.done.length === 0) return <ProgressLine label="Printing" share={work.share} />;
  return work.done.map(({ url, name }) => (
    <Link key={url} href={url} download>
      {`Save “${name}”`}
    </Link>
  ));
}

/** A fixed file of what is shown, or one of every vocal. */
export function NewPrint({ onClose }: { onClose: () => void }) {
  const summary = usePrintSummary();
  const [reach, setReach] = useState<Reach>("this");
  const [part, setPart] = useState<"whole" | "here">("whole");
  const [fade, setFade] = useState(15);
  const [container, setContainer] = useState<"wav" | "flac">("wav");
  const [bits, setBits] = useState<string | null>(null);
  const [rate, setRate] = useState("own");
  const [pattern, setPattern] = useState(PATTERN);
  const folder = useEditor((s) => s.song?.handoff ?? null);
  const [handoff, setHandoff] = useState(folder !== null);
  const [replace, setReplace] = useState(false);
  const [lower, setLower] = useState(false);
  const [work, setWork] = useState<PrintWork | null>(null);
  const depth = bits ?? String(summary?.usual_bits ?? 24);
  const over = summary ? summary.peak_dbfs : 0;
  const busy = work !== null && work.done.length === 0;
  const start = (): void => {
    const stretch = part === "here" && reach === "this" ? stretchIn(store.getState()) : null;
    const wanted: PrintIn = {
      container,
      bits: Number(depth) as 16 | 24 | 32,
      lower_db: lower && over > 0 ? tooLoud(over) : 0,
      sample_rate: rate === "own" ? null : Number(rate),
      spans: stretch ? [stretch] : [],
      fade_ms: fade,
      pattern: reach === "mix" && pattern === PATTERN ? "{song} mix" : pattern,
      handoff: folder !== null && handoff,
      replace,
    };
    void printFiles(
      wanted,
      reach === "this" ? null : { one_length: reach === "length", mix: reach === "mix" },
      setWork,
    );
  };
  return (
    <Rows>
      <span>What</span>
      <ReachRow reach={reach} setReach={setReach} />
      {reach === "this" && <PartRow part={part} setPart={setPart} fade={fade} setFade={setFade} />}
      <FormRows {...{ container, setContainer, depth, setDepth: setBits, rate, setRate }} />
      <span>Name</span>
      <span>
        <Field aria-label="Name of the file" value={pattern} onChange={(event) => setPattern(event.target.value)} />
        <Quiet>{"{song} {track} {version} {date} {number}"}</Quiet>
      </span>
      {folder !== null && <HandoffRow {...{ folder, handoff, setHandoff, replace, setReplace }} />}
      {reach === "mix" && <MixRow />}
      {reach === "this" && part === "whole" && <Facts summary={summary} />}
      {over > 0 && <OverRow {...{ over, lower, setLower }} />}
      <span className="end">
        <Made work={work} />
        <Button onPress={onClose}>Close</Button>
        <MainButton onPress={start} isDisabled={summary === null || busy}>
          Print
        </MainButton>
      </span>
    </Rows>
  );
}
