import { useEffect, useState } from "react";
import type { Operation } from "../../../document/track/model";
import type { TunePassOut } from "../../../document/schema";
import { loadPasses, usePassReach, type PassSettings, savePass, settingsOf } from "../../../commands/notes/passes";
import { hearSelection } from "../../../listening/playing";
import { useEditor } from "../../../session/useStore";
import { showWindow } from "../../../session/view";
import { Line, RoundingLine, TakeLine, useTried } from "../PassParts";
import { SideWindow } from "../SideWindow";
import { Fold } from "../../inspector/inspector_parts";
import { CheckBox } from "../../ui/CheckBox";
import { Button, Field, Quiet } from "../../ui/controls";
import { ValueRow } from "../../ui/ValueRow";
import { Picker } from "../../ui/Picker";

const FIRST: PassSettings = {
  pull: 0.75,
  within_cents: 0,
  movement: 1,
  scoop: 1,
  fall: 1,
  drift: 0.6,
  vibrato: 1,
  rounding: "scale",
  beyond_cents: 8,
  keep_edited: true,
};

type Share = "pull" | "movement" | "drift" | "vibrato" | "scoop" | "fall";

interface SetProps {
  settings: PassSettings;
  set: (values: Partial<PassSettings>) => void;
}

function Percent(props: SetProps & { of: Share; label: string; max: number }) {
  const { settings, set, of, label, max } = props;
  return (
    <ValueRow
      label={label}
      unit="%"
      value={Math.round(settings[of] * 100)}
      min={0}
      max={max}
      step={1}
      onCommit={(next) => set({ [of]: Math.min(Math.max(next, 0), max) / 100 })}
    />
  );
}

/** How far notes are pulled, and what is left of what moves in them. */
function Shares(own: SetProps) {
  const { settings, set } = own;
  return (
    <>
      <Percent {...own} of="pull" label="Pull" max={100} />
      <ValueRow
        label="To within"
        unit="ct"
        value={settings.within_cents}
        min={0}
        max={100}
        step={1}
        onCommit={(next) => set({ within_cents: Math.min(Math.max(next, 0), 100) })}
      />
      <Percent {...own} of="movement" label="Movement" max={200} />
      <Percent {...own} of="drift" label="Drift" max={200} />
      <Percent {...own} of="vibrato" label="Vibrato" max={300} />
      <Fold>
        <summary>Ways in and out</summary>
        <Percent {...own} of="scoop" label="Scoop" max={200} />
        <Percent {...own} of="fall" label="Fall" max={200} />
      </Fold>
    </>
  );
}

function SavedPasses(props: { passes: TunePassOut[]; onChoose: (pass: TunePassOut) => void }) {
  const { passes, onChoose } = props;
  const [hint, setHint] = useState("");
  return (
    <>
      <Picker
        label="Start from a saved pass"
        placeholder="Start from…"
        options={passes.map((pass) => [pass.name, pass.name])}
        value={null}
        onChange={(wanted) => {
          const chosen = passes.find((pass) => pass.name === wanted);
          if (!chosen) return;
          setHint(chosen.hint || chosen.name);
          onChoose(chosen);
        }}
      />
      {hint && <Quiet>{hint}</Quiet>}
    </>
  );
}

function SaveLine({ name, setName, save }: { name: string; setName: (name: string) => void; save: () => void }) {
  return (
    <Line>
      <Field aria-label="Name of the pass" placeholder="Name" value={name} onChange={(e) => setName(e.target.value)} />
      <Button isDisabled={!name.trim()} onPress={save}>
        Save
      </Button>
    </Line>
  );
}

/** Correct many notes at once, seen and heard before it is taken. */
export function PassWindow() {
  const [settings, setSettings] = useState(FIRST);
  const [passes, setPasses] = useState<TunePassOut[]>([]);
  const [whole, setWhole] = useState(false);
  const [name, setName] = useState("");
  const selection = useEditor((s) => s.selection);
  const [spoken, setSpoken] = useState(false);
  const someSpoken = useEditor((s) => s.content?.notes.some((note) => note.spoken) ?? false);
  const reach = usePassReach(whole);
  const operation: Operation = { type: "tune_pass", note_ids: reach.ids, ...settings, spoken };
  useEffect(() => void loadPasses().then(setPasses), []);
  const changes = useTried(operation)?.changed_notes ?? null;

  const set = (values: Partial<PassSettings>): void => setSettings({ ...settings, ...values });
  return (
    <SideWindow title="Tune pass" onClose={() => showWindow(null)}>
      <SavedPasses
        passes={passes}
        onChoose={(chosen) => {
          setSettings(settingsOf(chosen));
          if (!chosen.shipped) setName(chosen.name);
        }}
      />
      <Shares settings={settings} set={set} />
      <RoundingLine label="Rounding of the pass" value={settings.rounding} onChange={(rounding) => set({ rounding })} />
      <ValueRow
        label="Only over"
        unit="ct"
        value={settings.beyond_cents}
        min={0}
        max={100}
        step={1}
        onCommit={(next) => set({ beyond_cents: Math.min(Math.max(next, 0), 1200) })}
      />
      <CheckBox checked={settings.keep_edited} onChange={(on) => set({ keep_edited: on })}>
        Keep what I set by hand
      </CheckBox>
      {someSpoken && (
        <CheckBox checked={spoken} onChange={setSpoken}>
          Spoken words too
        </CheckBox>
      )}
      <CheckBox checked={whole} onChange={setWhole}>
        Whole track
      </CheckBox>
      <Quiet aria-live="polite">
        {`Acts on ${reach.words}${changes === null ? "" : `: ${changes === 1 ? "1 note changes" : `${changes} notes change`}`}. Air is left alone.`}
      </Quiet>
      <SaveLine
        name={name}
        setName={setName}
        save={() => void savePass(name.trim(), settings).then((kept) => kept && setPasses(kept))}
      />
      <TakeLine operation={operation} nothing={!changes}>
        <Button isDisabled={selection.size === 0} onPress={hearSelection}>
          Hear selection
        </Button>
      </TakeLine>
    </SideWindow>
  );
}
