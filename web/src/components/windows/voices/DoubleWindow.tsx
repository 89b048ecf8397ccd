import { useState } from "react";
import { derive, type Double } from "../../../commands/voices/deriving";
import { useNotesOf } from "../../../commands/notes/reach";
import { useEditor } from "../../../session/useStore";
import { showWindow } from "../../../session/view";
import { Button, MainButton, Quiet, Segments } from "../../ui/controls";
import { Picker } from "../../ui/Picker";
import { ValueRow } from "../../ui/ValueRow";
import { HearIt, Line, ReachChoice, useTriedVoices } from "../PassParts";
import { SideWindow } from "../SideWindow";

type AirWay = NonNullable<Double["air"]>;

const AIR: readonly (readonly [AirWay, string])[] = [
  ["lowered", "lowered"],
  ["left out", "left out"],
  ["kept", "kept"],
];

/** What becomes of the sibilants and breaths of a voice that is made. */
export function AirLine(props: { air: AirWay; setAir: (air: AirWay) => void }) {
  return (
    <Line>
      <span>Sibilants, breaths</span>
      <Picker
        label="Sibilants and breaths are"
        options={AIR}
        value={props.air}
        onChange={(next) => props.setAir(next as AirWay)}
      />
    </Line>
  );
}

/** One to four second performances of the open track, as tracks of their own. */
export function DoubleWindow() {
  const [voices, setVoices] = useState("1");
  const [timing, setTiming] = useState(16);
  const [pitch, setPitch] = useState(9);
  const [level, setLevel] = useState(0.8);
  const [formant, setFormant] = useState(0.3);
  const [seed, setSeed] = useState(1);
  const [air, setAir] = useState<NonNullable<Double["air"]>>("lowered");
  const some = useEditor((s) => s.selection.size > 0);
  const { reach, setReach, notes } = useNotesOf("track");
  const operation: Double = {
    type: "double",
    seed,
    timing_ms: timing,
    pitch_cents: pitch,
    level_db: level,
    formant,
    air,
    ...(reach === "track" ? {} : { note_ids: notes.map((note) => note.id) }),
  };
  useTriedVoices(notes.length === 0 ? null : operation, Number(voices));
  const make = (): void => void derive(operation, Number(voices)).then((done) => done && showWindow(null));
  return (
    <SideWindow title="Double" onClose={() => showWindow(null)}>
      <Quiet>
        A second performance of this version, heard with it before it is made as a track of its own. The lead stays as
        it is.
      </Quiet>
      <Segments
        label="Voices"
        options={["1", "2", "3", "4"].map((count) => [count, count === "1" ? "1 voice" : count] as const)}
        value={voices}
        onChange={setVoices}
      />
      <ValueRow label="Timing" unit="ms" value={timing} min={0} max={80} step={1} onCommit={setTiming} />
      <ValueRow label="Pitch" unit="ct" value={pitch} min={0} max={60} step={1} onCommit={setPitch} />
      <ValueRow label="Level" unit="dB" value={level} min={0} max={6} step={0.1} onCommit={setLevel} />
      <ValueRow label="Formant" unit="st" value={formant} min={-6} max={6} step={0.1} onCommit={setFormant} />
      <ValueRow label="Seed" unit="" value={seed} min={0} max={9999} step={1} onCommit={setSeed} />
      <AirLine air={air} setAir={setAir} />
      <ReachChoice selection={some} value={reach} onChange={setReach} />
      <Line>
        <MainButton onPress={make}>Make it</MainButton>
        <HearIt />
        <Button onPress={() => showWindow(null)}>Leave</Button>
      </Line>
    </SideWindow>
  );
}
