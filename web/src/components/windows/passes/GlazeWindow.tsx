import { useEffect, useState } from "react";
import type { GlazeOut, Operation } from "../../../document/track/model";
import type { GlazePresetOut } from "../../../document/schema";
import { sourceToSong } from "../../../document/time/times";
import { barText } from "../../../document/time/time_text";
import { edit } from "../../../commands/notes/editing";
import { loadGlazePresets } from "../../../commands/notes/passes";
import { type ReachName, useReach } from "../../../commands/notes/reach";
import { useEditor } from "../../../session/useStore";
import { showWindow } from "../../../session/view";
import { Found, ReachChoice, RoundingLine, TakeLine, useTried } from "../PassParts";
import { SideWindow } from "../SideWindow";
import { CheckBox } from "../../ui/CheckBox";
import { Button, PlainButton, Quiet, Segments } from "../../ui/controls";
import { ValueRow } from "../../ui/ValueRow";

type Settings = Omit<GlazeOut, "id" | "start_s" | "end_s">;

const FIRST: Settings = {
  settle_ms: 80,
  strength: 1,
  rounding: "scale",
  tolerance_cents: 12,
  shortest_ms: 90,
  keep_vibrato: true,
};

function settingsOf({ settle_ms, strength, rounding, tolerance_cents, shortest_ms, keep_vibrato }: Settings): Settings {
  return { settle_ms, strength, rounding, tolerance_cents, shortest_ms, keep_vibrato };
}

function usePresets(): GlazePresetOut[] {
  const [presets, setPresets] = useState<GlazePresetOut[]>([]);
  useEffect(() => void loadGlazePresets().then(setPresets), []);
  return presets;
}

/** The glazes there are: one is chosen to change its settings, or taken away. */
function GlazeList(props: { chosen: string | null; onChoose: (glaze: GlazeOut | null) => void }) {
  const glazes = useEditor((s) => s.content?.glazes) ?? [];
  const song = useEditor((s) => s.song);
  const times = useEditor((s) => s.view.times);
  if (glazes.length === 0 || !song) return null;
  const place = ({ start_s, end_s }: GlazeOut): string =>
    `${barText(sourceToSong(start_s, times), song)} to ${barText(sourceToSong(end_s, times), song)}`;
  return (
    <Found aria-label="Glazes on this version">
      {glazes.map((glaze) => (
        <li key={glaze.id}>
          <PlainButton
            aria-pressed={props.chosen === glaze.id}
            onPress={() => props.onChoose(props.chosen === glaze.id ? null : glaze)}
          >
            {`${props.chosen === glaze.id ? "● " : ""}${place(glaze)}, ${Math.round(glaze.settle_ms)} ms`}
          </PlainButton>{" "}
          <PlainButton
            aria-label={`Take the glaze ${place(glaze)} away`}
            onPress={() => {
              props.onChoose(null);
              void edit({ type: "remove_glaze", glaze_ids: [glaze.id] });
            }}
          >
            <u>take away</u>
          </PlainButton>
        </li>
      ))}
    </Found>
  );
}

function SettingRows(props: { settings: Settings; set: (values: Partial<Settings>) => void }) {
  const { settings, set } = props;
  const row = (label: string, unit: string, name: "settle_ms" | "tolerance_cents" | "shortest_ms", max: number) => (
    <ValueRow
      label={label}
      unit={unit}
      value={settings[name]}
      min={name === "shortest_ms" ? 10 : 0}
      max={max}
      step={1}
      onCommit={(next) => set({ [name]: Math.min(Math.max(next, name === "shortest_ms" ? 10 : 0), max) })}
    />
  );
  return (
    <>
      {row("Settle time", "ms", "settle_ms", 400)}
      <ValueRow
        label="Strength"
        unit="%"
        value={Math.round(100 * settings.strength)}
        min={0}
        max={100}
        step={1}
        onCommit={(next) => set({ strength: Math.min(Math.max(next, 0), 100) / 100 })}
      />
      {row("Tolerance", "ct", "tolerance_cents", 100)}
      {row("Shortest note", "ms", "shortest_ms", 400)}
      <RoundingLine
        label="Rounding of the glaze"
        value={settings.rounding}
        onChange={(rounding) => set({ rounding })}
      />
      <CheckBox checked={settings.keep_vibrato} onChange={(keep_vibrato) => set({ keep_vibrato })}>
        Keep vibrato
      </CheckBox>
    </>
  );
}

/** A last, automatic pull over a range, on top of the notes' own gestures. */
export function GlazeWindow() {
  const some = useEditor((s) => s.selection.size > 0);
  const presets = usePresets();
  const [settings, setSettings] = useState(FIRST);
  const [words, setWords] = useState("");
  const [reach, setReach] = useState<ReachName>(some ? "selection" : "track");
  const [chosen, setChosen] = useState<string | null>(null);
  const range = useReach(reach === "selection" && !some ? "phrase" : reach);
  const operation: Operation | null =
    chosen !== null
      ? { type: "set_glaze", glaze_ids: [chosen], values: settings }
      : range && { type: "glaze", start_s: range.start_s, end_s: range.end_s, values: settings };
  const tried = useTried(operation);
  return (
    <SideWindow title="Glaze" onClose={() => showWindow(null)}>
      <Quiet>Pulls what is left towards the scale, on top of what each note asks for. Nothing of that is lost.</Quiet>
      <Segments
        label="Settings for"
        options={presets.map((preset) => [preset.name, preset.name] as const)}
        value={words}
        onChange={(name) => {
          const preset = presets.find((one) => one.name === name);
          if (!preset) return;
          setSettings(settingsOf({ ...preset, rounding: settings.rounding }));
          setWords(name);
        }}
      />
      <Quiet>{presets.find((preset) => preset.name === words)?.words}</Quiet>
      <SettingRows settings={settings} set={(values) => setSettings({ ...settings, ...values })} />
      {chosen === null && <ReachChoice selection={some} value={reach} onChange={setReach} />}
      <GlazeList
        chosen={chosen}
        onChoose={(glaze) => {
          setChosen(glaze?.id ?? null);
          if (glaze) setSettings(settingsOf(glaze));
        }}
      />
      {tried && (
        <p aria-live="polite">
          {tried.notes.length === 1 ? "1 note is pulled." : `${tried.notes.length} notes are pulled.`}
        </p>
      )}
      <TakeLine operation={operation} nothing={!tried || tried.changed.length === 0}>
        {chosen !== null && <Button onPress={() => setChosen(null)}>Lay a new one</Button>}
      </TakeLine>
    </SideWindow>
  );
}
