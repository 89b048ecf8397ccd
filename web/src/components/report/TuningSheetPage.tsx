import { type ReactNode, useEffect, useState } from "react";
import { secondsText } from "../../document/time/time_text";
import type { SheetPhraseOut, SheetRowOut, TuningSheetOut } from "../../document/schema";
import { listComps, loadTuningSheet, loadUntouched, printPage, sheetUrl, showPlace } from "../../commands/reporting";
import { useEditor } from "../../session/useStore";
import { signed } from "../../document/music/pitch_names";
import { keysInWords, songTuning } from "../../document/track/song_words";
import { Button, PlainButton, Quiet } from "../ui/controls";
import { Picker } from "../ui/Picker";
import { Choice, Paper } from "./paper";

const cents = (value: number | null | undefined): string =>
  value === null || value === undefined ? "" : `${signed(Math.round(value))} ct`;

const counted = (count: number, one: string, many = `${one}s`): string => `${count} ${count === 1 ? one : many}`;

function Row({ row }: { row: SheetRowOut }) {
  return (
    <tr>
      <td className="place">
        <PlainButton onPress={() => showPlace(row.at_s)} aria-label={`Show bar ${row.bar} on the sheet`}>
          {row.bar}
        </PlainButton>
      </td>
      <td className="place">{secondsText(row.at_s)}</td>
      <td className="what">{row.word ? `“${row.word}” ${row.what}` : row.what}</td>
      <td className="number">{cents(row.before_cents)}</td>
      <td className="number">{cents(row.after_cents)}</td>
      <td className="changed">
        {row.changed.join(", ")}
        {row.version !== "" && <small>{` (${row.version})`}</small>}
      </td>
      <td className="number">{row.strain == null ? "" : Math.round(row.strain)}</td>
      <td className="number">{row.kept == null ? "" : `${Math.round(row.kept)} %`}</td>
    </tr>
  );
}

function Heads() {
  return (
    <thead>
      <tr>
        <th scope="col">Bar</th>
        <th scope="col">Time</th>
        <th scope="col">Target</th>
        <th scope="col" className="number">
          Before
        </th>
        <th scope="col" className="number">
          After
        </th>
        <th scope="col">What was changed</th>
        <th scope="col" className="number">
          Strain
        </th>
        <th scope="col" className="number">
          Kept
        </th>
      </tr>
    </thead>
  );
}

function Phrase({ phrase }: { phrase: SheetPhraseOut }) {
  return (
    <table>
      <caption>
        {`Phrase ${phrase.number + 1}, bar ${phrase.bar}`}
        {phrase.words !== "" && <em>{` ${phrase.words}`}</em>}
      </caption>
      <Heads />
      <tbody>
        {phrase.rows.map((row) => (
          <Row key={`${row.kind}${row.at_s}${row.what}`} row={row} />
        ))}
      </tbody>
    </table>
  );
}

/** The share of samples that are the recording's own; it takes a while, as the whole track is rendered for it. */
function Untouched({ step }: { step: string | null }) {
  const [found, setFound] = useState<{ step: string | null; share: number | null } | null>(null);
  useEffect(() => {
    let still = true;
    if (step) void loadUntouched(step).then((share) => still && setFound({ step, share }));
    return () => {
      still = false;
    };
  }, [step]);
  if (!found || found.step !== step || found.share === null) return null;
  return (
    <>
      <dt>Untouched</dt>
      <dd>{`${(100 * found.share).toFixed(1)} % of the samples are the recording’s own`}</dd>
    </>
  );
}

function Totals({ sheet }: { sheet: TuningSheetOut }) {
  const few = (rows: readonly SheetRowOut[]): string =>
    rows
      .map(
        (row) =>
          `bar ${row.bar} ${row.word ? `“${row.word}” ` : ""}${row.what} (${cents(row.before_cents)} to ${cents(row.after_cents)})`,
      )
      .join("; ");
  const song = useEditor((s) => s.song);
  return (
    <dl>
      {song && (
        <>
          <dt>Key</dt>
          <dd>{`${keysInWords(song)} · ${songTuning(song)}`}</dd>
        </>
      )}
      <Untouched step={sheet.step_id ?? null} />
      <dt>Changed</dt>
      <dd>
        {`${sheet.notes_changed} of ${counted(sheet.notes, "note")}, ${counted(sheet.air_changed, "sound of air or gap", "sounds of air and gaps")}`}
        {sheet.borrowed > 0 && `, ${counted(sheet.borrowed, "word")} borrowed`}
      </dd>
      {sheet.strongest.length > 0 && (
        <>
          <dt>Strongest</dt>
          <dd>{few(sheet.strongest)}</dd>
        </>
      )}
      {sheet.again.length > 0 && (
        <>
          <dt>Better sung again</dt>
          <dd>{few(sheet.again)}</dd>
        </>
      )}
    </dl>
  );
}

/** Every change of a version or comp, as a page that is read, printed and saved. */
export function TuningSheetPage({ tabs }: { tabs: ReactNode }) {
  const versions = useEditor((s) => s.versions);
  const comps = useEditor((s) => s.comps);
  const open = useEditor((s) => s.content?.version.id) ?? "";
  const step = useEditor((s) => s.content?.step_id);
  const trackId = useEditor((s) => s.trackId);
  const [chosen, setChosen] = useState<string | null>(null);
  const [against, setAgainst] = useState("");
  const [sheet, setSheet] = useState<TuningSheetOut | null>(null);
  const version = chosen ?? open;
  useEffect(() => void listComps(), [trackId]);
  useEffect(() => {
    let still = true;
    void loadTuningSheet(version, against || null).then((found) => still && setSheet(found));
    return () => {
      still = false;
    };
  }, [version, against, step, trackId]);
  const all = [...versions, ...(comps ?? [])].map((one) => [one.id, one.name] as const);
  return (
    <>
      <Choice role="toolbar" aria-label="Report">
        {tabs}
        <Picker label="Changes of" options={all} value={version} onChange={setChosen} />
        <Picker
          label="against"
          options={[["", "as sung"], ...all.filter(([id]) => id !== version)]}
          value={against}
          onChange={setAgainst}
        />
        <span className="room" />
        <Button onPress={printPage}>Print the page…</Button>
        {(["csv", "json"] as const).map((kind) => (
          <a key={kind} href={trackId ? sheetUrl(trackId, kind, version, against || null) : undefined} download>
            {`Save as ${kind.toUpperCase()}`}
          </a>
        ))}
      </Choice>
      <Paper aria-label="Tuning sheet">
        {sheet === null ? (
          <Quiet role="status">Reading what was changed…</Quiet>
        ) : (
          <>
            <h2>{`Tuning sheet: ${sheet.song}`}</h2>
            <p>{`${sheet.track}, ${sheet.version} against ${sheet.against}`}</p>
            <Totals sheet={sheet} />
            {sheet.phrases.length === 0 && <p>Nothing is changed.</p>}
            {sheet.phrases.map((phrase) => (
              <Phrase key={phrase.number} phrase={phrase} />
            ))}
          </>
        )}
      </Paper>
    </>
  );
}
