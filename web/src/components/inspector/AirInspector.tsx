import type { AirOut } from "../../document/track/model";
import { noteLabel, signed } from "../../document/music/pitch_names";
import { editAir, leaveAir, moveAirEdge, silenceAir, splitAir } from "../../commands/notes/air";
import { edit } from "../../commands/notes/editing";
import { hearSelection } from "../../listening/playing";
import { useEditor } from "../../session/useStore";
import { Body, Buttons, Facts, Head, TargetRow } from "./inspector_parts";
import { Picker } from "../ui/Picker";
import { CheckBox } from "../ui/CheckBox";
import { Button, MainButton, Quiet } from "../ui/controls";
import { TypedField } from "../ui/TypedField";
import { ValueRow } from "../ui/ValueRow";

const KINDS = [
  ["sibilant", "Sibilant"],
  ["consonant", "Consonant"],
  ["breath", "Breath"],
] as const;

function shared<T>(air: AirOut[], read: (event: AirOut) => T): T | null {
  const value = read(air[0]!);
  return air.every((event) => read(event) === value) ? value : null;
}

function seconds(typed: string): number {
  return Number.parseFloat(typed.replace(",", "."));
}

function AirEdge({ event, side }: { event: AirOut; side: "start" | "end" }) {
  return (
    <TargetRow>
      <span>{side === "start" ? "Start" : "End"}</span>
      <TypedField
        label={side === "start" ? "Start of the air (s)" : "End of the air (s)"}
        text={`${(side === "start" ? event.start_s : event.end_s).toFixed(3)} s`}
        onCommit={(typed) =>
          Number.isFinite(seconds(typed)) ? moveAirEdge(event, side, seconds(typed)) : Promise.resolve(false)
        }
      />
    </TargetRow>
  );
}

function AirFacts({ event, owner }: { event: AirOut; owner: string }) {
  return (
    <Facts>
      <dt>As sung</dt>
      <dd>{`${signed(event.level_db, 1)} dBFS`}</dd>
      <dt>Above 5 kHz</dt>
      <dd>{`${signed(event.high_db, 1)} dBFS`}</dd>
      <dt>Length</dt>
      <dd>{`${Math.round(1000 * (event.end_s - event.start_s))} ms`}</dd>
      <dt>Belongs to</dt>
      <dd>{owner}</dd>
      {event.harsh_db !== null && (
        <dd className="flag">{`⚑ harsh: ${event.harsh_db.toFixed(0)} dB over the usual sibilant`}</dd>
      )}
    </Facts>
  );
}

/** Values of the chosen air events. */
export function AirValues({ air }: { air: AirOut[] }) {
  const song = useEditor((s) => s.song);
  const times = useEditor((s) => s.view.times);
  const notes = useEditor((s) => s.content?.notes);
  const one = air.length === 1 ? air[0]! : null;
  const kind = shared(air, (event) => event.kind);
  const owner = one && notes?.find((note) => note.id === one.owner);
  if (!song) return null;
  return (
    <Body>
      <Head>
        <strong>{one ? KINDS.find(([name]) => name === one.kind)?.[1] : `${air.length} air events`}</strong>
        {one && <Quiet>{one.voiced ? "voiced" : "voiceless"}</Quiet>}
      </Head>
      <TargetRow>
        <span>Kind</span>
        <Picker
          label="Kind of air"
          options={KINDS}
          value={kind}
          onChange={(next) => void editAir({ type: "set_air", values: { kind: next as AirOut["kind"] } })}
        />
      </TargetRow>
      <ValueRow
        label="Level"
        unit="dB"
        value={shared(air, (event) => event.change_db)}
        min={-60}
        max={12}
        step={0.5}
        onCommit={(level_db) => void editAir({ type: "set_air", values: { level_db } })}
        onChangeBy={(by_db) => void editAir({ type: "nudge_air", by_db })}
      />
      <CheckBox checked={air.every((event) => event.muted)} onChange={silenceAir}>
        Silent (0)
      </CheckBox>
      {one && <AirEdge event={one} side="start" />}
      {one && <AirEdge event={one} side="end" />}
      <Buttons>
        <MainButton onPress={hearSelection}>Hear</MainButton>
        <Button onPress={splitAir} isDisabled={!one}>
          Split (X)
        </Button>
        <Button onPress={() => void editAir({ type: "put_air_back" })}>Put back</Button>
        <Button
          onPress={() => void edit({ type: "remove_air", air_ids: air.map((event) => event.id) })}
          aria-label="This is no air; leave it as recorded"
        >
          No air
        </Button>
      </Buttons>
      {one && <AirFacts event={one} owner={owner ? noteLabel(song, owner, owner.tuned_midi, times) : "no note"} />}
      {owner && <Button onPress={leaveAir}>To its note (A)</Button>}
      <Quiet>{one?.voiced ? "Its voice moves with the note; the hiss stays." : "Never pitch-shifted."}</Quiet>
    </Body>
  );
}
