import type { ComponentType } from "react";
import type { WindowName } from "../../document/track/store";
import { useEditor } from "../../session/useStore";
import { FollowTogether } from "../stack/FollowTogether";
import { BreathsWindow, SoftenWindow } from "./passes/AirWindows";
import { AlikeWindow } from "./passes/AlikeWindow";
import { BorrowWindow } from "./voices/BorrowWindow";
import { ChordsWindow } from "./voices/ChordsWindow";
import { DoubleWindow } from "./voices/DoubleWindow";
import { FollowWindow } from "./voices/FollowWindow";
import { GlazeWindow } from "./passes/GlazeWindow";
import { HarmonyWindow } from "./voices/HarmonyWindow";
import { EvenOutWindow, GapsWindow } from "./passes/LevelWindows";
import { LoudnessWindow } from "./LoudnessWindow";
import { MelodyWindow } from "./voices/MelodyWindow";
import { PassWindow } from "./passes/PassWindow";
import { PureWindow } from "./passes/PureWindow";
import { QuantiseWindow } from "./passes/QuantiseWindow";
import { ReadAgainWindow, RecutWindow } from "./passes/RecutWindow";
import { TwoPitchesWindow } from "./passes/TwoPitchesWindow";
import { SongStepsWindow } from "./song/SongStepsWindow";
import { VersionsWindow } from "./VersionsWindow";

const WINDOWS: Record<WindowName, ComponentType> = {
  pass: PassWindow,
  quantise: QuantiseWindow,
  glaze: GlazeWindow,
  borrow: BorrowWindow,
  follow: FollowWindow,
  double: DoubleWindow,
  harmony: HarmonyWindow,
  follow_stack: FollowTogether,
  melody: MelodyWindow,
  recut: RecutWindow,
  two_pitches: TwoPitchesWindow,
  read_again: ReadAgainWindow,
  alike: AlikeWindow,
  soften: SoftenWindow,
  breaths: BreathsWindow,
  even: EvenOutWindow,
  gaps: GapsWindow,
  loudness: LoudnessWindow,
  versions: VersionsWindow,
  song_steps: SongStepsWindow,
  chords: ChordsWindow,
  pure: PureWindow,
};

/** The window beside the sheet.  What is chosen in it belongs to the open track: with another one it begins anew. */
export function ShownWindow() {
  const shown = useEditor((s) => s.window);
  const trackId = useEditor((s) => s.trackId);
  if (shown === null) return null;
  const Window = WINDOWS[shown];
  return <Window key={`${shown} ${trackId}`} />;
}
