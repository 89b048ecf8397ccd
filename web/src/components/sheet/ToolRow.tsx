import { otherVocals } from "../../document/track/vocals";
import { remember } from "../../session/remembered";
import { useEditor } from "../../session/useStore";
import { showWindow, takeTool } from "../../session/view";
import { showAirAs } from "../../commands/notes/air";
import { toggleBeneath } from "../../commands/voices/beneath";
import { showPanel } from "../../commands/panels";
import { type Action, ActionMenu } from "../ui/ActionMenu";
import { Button, Segments } from "../ui/controls";
import { Overview } from "./SheetView";
import { ToolLine } from "../ui/ToolLine";

const LEVEL_WINDOWS: Action[] = [
  ["Soften harsh sibilants…", () => showWindow("soften")],
  ["Breaths…", () => showWindow("breaths")],
  ["Even out…", () => showWindow("even")],
  ["Clear gaps…", () => showWindow("gaps")],
  ["Loudness…", () => showWindow("loudness")],
];

const MAKE_ACTIONS: Action[] = [
  ["Follow another track… (Y)", () => showWindow("follow")],
  ["Make a double…", () => showWindow("double")],
  ["Make a harmony…", () => showWindow("harmony")],
  ["Sing a melody…", () => showWindow("melody")],
];

/** What is done with other voices: to follow one, to make some, and to see the notes of another track behind. */
function VoicesMenu() {
  const song = useEditor((s) => s.song);
  const trackId = useEditor((s) => s.trackId);
  const beneath = useEditor((s) => s.beneath?.trackId);
  const others = otherVocals(song, trackId);
  const behind = others.map((one): Action => [
    beneath === one.id ? `Hide the notes of ${one.name}` : `Notes of ${one.name} behind`,
    () => void toggleBeneath(one.id),
  ]);
  const all: Action = ["All tracks together (Shift+H)", () => showPanel("stack")];
  const chords: Action[] = [
    ["Chords…", () => showWindow("chords")],
    ["Pure intervals by the chord…", () => showWindow("pure")],
  ];
  return <ActionMenu label="Voices" text="Voices…" actions={[...MAKE_ACTIONS, ...chords, ...behind, all]} />;
}

/** Tools of the sheet. */
export function ToolRow() {
  const tool = useEditor((s) => s.tool);
  const airAs = useEditor((s) => s.airAs);
  const listFolded = useEditor((s) => s.listFolded);
  const inspectorFolded = useEditor((s) => s.inspectorFolded);
  return (
    <ToolLine role="toolbar" aria-label="Sheet tools">
      <Button
        className="fold"
        aria-label="List of phrases"
        aria-pressed={!listFolded}
        onPress={() => remember({ listFolded: !listFolded })}
      >
        {listFolded ? "›" : "‹"}
      </Button>
      <Segments
        label="Tool"
        options={[
          ["select", "Select"],
          ["time", "Time"],
          ["draw", "Draw"],
          ["rub", "Rub out"],
          ["level", "Level"],
        ]}
        value={tool}
        onChange={(next) => takeTool(next)}
      />
      {listFolded && inspectorFolded ? <Overview place="among tools, when wide" /> : <span className="room" />}
      <Button
        aria-pressed={airAs === "spectrum"}
        aria-label="Air lane as energy over frequency"
        onPress={() => void showAirAs(airAs === "level" ? "spectrum" : "level")}
      >
        Energy
      </Button>
      <ActionMenu label="Levels" text="Levels…" actions={LEVEL_WINDOWS} />
      <Button onPress={() => showWindow("quantise")}>Quantise…</Button>
      <Button onPress={() => showWindow("pass")}>Tune pass…</Button>
      <Button onPress={() => showWindow("glaze")}>Glaze…</Button>
      <VoicesMenu />
      <Button onPress={() => showWindow("recut")}>Cuts…</Button>
      <Button
        className="fold"
        aria-label="Inspector"
        aria-pressed={!inspectorFolded}
        onPress={() => remember({ inspectorFolded: !inspectorFolded })}
      >
        {inspectorFolded ? "‹" : "›"}
      </Button>
    </ToolLine>
  );
}
