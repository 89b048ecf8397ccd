import { useEffect, useRef } from "react";
import styled from "styled-components";
import type { Listening } from "../../document/track/model";
import { barText, secondsText } from "../../document/time/time_text";
import { store } from "../../document/track/store";
import { otherVocals } from "../../document/track/vocals";
import { cancelPaint, requestPaint } from "../../session/frame_scheduler";
import {
  hearSelection,
  listenTo,
  setBacking,
  setLoop,
  setMelodyAlong,
  setOthers,
  togglePlay,
  transport,
} from "../../listening/playing";
import { markNow } from "../../commands/notes/shaping";
import { useEditor } from "../../session/useStore";
import { CheckBox } from "../ui/CheckBox";
import { Button, MainButton, Segments } from "../ui/controls";
import { Fader } from "../ui/ValueRow";
import { Picker } from "../ui/Picker";

const Bar = styled.footer`
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 3px 12px;
  background: var(--panel);
  border: 1px solid var(--edge);
  border-radius: 10px;
  flex-wrap: wrap;
  & .clock {
    font-size: 18px;
    font-weight: 600;
    width: 176px;
    contain: strict;
    height: 24px;
    white-space: nowrap;
    font-variant-numeric: tabular-nums;
  }
  & .clock small {
    color: var(--muted);
    font-weight: 450;
    margin-left: 8px;
    font-size: 14px;
  }
  & .backing {
    display: flex;
    align-items: center;
    gap: 6px;
  }
  & .track {
    width: 84px;
  }
`;

const LISTENING = [
  ["sung", "As sung"],
  ["tuned", "Tuned"],
  ["difference", "Difference"],
] as const;
const ALONE = [
  ["notes", "Notes alone"],
  ["air", "Air alone"],
] as const;

const STACK_LISTENING = [
  ["tuned", "Tuned"],
  ["sung", "As sung"],
] as const;

/** What can be listened to now: the mark once there is one, and the version that was last heard. */
function useListening(): readonly (readonly [Listening, string])[] {
  const marked = useEditor((s) => s.markedStep !== null);
  const heard = useEditor((s) => s.versions.find((version) => version.id === s.heardVersion)?.name);
  const open = useEditor((s) => s.content?.version.name) ?? "Tuned";
  const comp = useEditor((s) => (s.panel === "comp" ? s.comp?.version.name : undefined));
  const stack = useEditor((s) => s.panel === "stack");
  if (stack) return STACK_LISTENING;
  if (comp !== undefined)
    return [["comp", comp], ["sung", "As sung"], ...(heard ? ([["version", `⇄ ${heard}`]] as const) : [])];
  const named = LISTENING.map(([kind, text]) => [kind, kind === "tuned" ? open : text] as const);
  return [
    ...named,
    ...(marked ? ([["marked", "At mark"]] as const) : []),
    ...(heard ? ([["version", `⇄ ${heard}`]] as const) : []),
  ];
}

/** How often the clock is set while playing: each time costs the page a layout. */
const CLOCK_MS = 100;

function put(node: ChildNode, text: string): void {
  if (node.textContent !== text) node.textContent = text;
}

function Clock() {
  const text = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const show = (): void => {
      const { song, playing, cursor_s } = store.getState();
      if (!song || !text.current) return;
      const at = playing ? transport.position : cursor_s;
      put(text.current.firstChild!, `bar ${barText(at, song)}`);
      put(text.current.lastChild!, secondsText(at));
    };
    const soon = (): void => requestPaint(show);
    const stop = store.subscribe(soon);
    const timer = window.setInterval(() => store.getState().playing && soon(), CLOCK_MS);
    soon();
    return () => {
      stop();
      window.clearInterval(timer);
      cancelPaint(show);
    };
  }, []);
  return (
    <div className="clock" ref={text} aria-label="Position">
      <span />
      <small />
    </div>
  );
}

function BackingLevel() {
  const backing = useEditor((s) => s.backing);
  const level = useEditor((s) => s.backingLevel);
  return (
    <span className="backing">
      <CheckBox checked={backing} onChange={(on) => setBacking({ backing: on })}>
        Backing
      </CheckBox>
      <Fader
        label="Backing level"
        silent
        value={level}
        min={-36}
        max={6}
        step={1}
        onChange={(backingLevel) => setBacking({ backingLevel })}
      />
      <span>{`${level < 0 ? "−" : "+"}${Math.abs(level)} dB`}</span>
    </span>
  );
}

export function TransportBar() {
  const playing = useEditor((s) => s.playing);
  const listening = useEditor((s) => s.listening);
  const options = useListening();
  const loop = useEditor((s) => s.loop);
  const others = useEditor((s) => s.others);
  const melody = useEditor((s) => s.melodyAlong);
  const stack = useEditor((s) => s.panel === "stack");
  const trackId = useEditor((s) => s.trackId);
  const hasOthers = useEditor((s) => otherVocals(s.song, trackId).length > 0);
  const hasBacking = useEditor((s) => s.song?.tracks.some((track) => track.role === "backing") ?? false);
  return (
    <Bar aria-label="Transport">
      <MainButton onPress={togglePlay} aria-label={playing ? "Stop" : "Play"}>
        {playing ? "■  Stop" : "▶  Play"}
      </MainButton>
      <Button onPress={hearSelection}>Hear selection</Button>
      <Button aria-pressed={loop} onPress={() => setLoop(!loop)}>
        Loop
      </Button>
      <Clock />
      <Segments<Listening> label="Listen to" options={options} value={listening} onChange={listenTo} />
      {!stack && (
        <Picker
          label="Listen to a part alone"
          options={[["tuned", "Notes and air"], ...ALONE]}
          value={listening === "air" || listening === "notes" ? listening : "tuned"}
          onChange={(kind) => listenTo(kind as Listening)}
        />
      )}
      {!stack && (
        <Button onPress={markNow} aria-label="Mark how it is now, to compare with later">
          Mark (M)
        </Button>
      )}
      {hasOthers && !stack && (
        <CheckBox checked={others} onChange={setOthers}>
          Stack
        </CheckBox>
      )}
      <CheckBox checked={melody} onChange={setMelodyAlong} label="Play the melody along as a soft tone">
        Melody
      </CheckBox>
      {hasBacking && <BackingLevel />}
    </Bar>
  );
}
