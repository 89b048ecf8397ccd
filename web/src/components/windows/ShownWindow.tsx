import type { ComponentType } from "react";
import type { WindowName } from "../../document/store";
import { useEditor } from "../../hooks/useStore";
import { FollowTogether } from "../stack/FollowTogether";
import { BreathsWindow, SoftenWindow } from "./AirWindows";
import { AlikeWindow } from "./AlikeWindow";
import { BorrowWindow } from "./BorrowWindow";
import { DoubleWindow } from "./DoubleWindow";
import { FollowWindow } from "./FollowWindow";
import { GlazeWindow } from "./GlazeWindow";
import { HarmonyWindow } from "./HarmonyWindow";
import { EvenOutWindow, GapsWindow } from "./LevelWindows";
import { LoudnessWindow } from "./LoudnessWindow";
import { MelodyWindow } from "./MelodyWindow";
import { PassWindow } from "./PassWindow";
import { QuantiseWindow } from "./QuantiseWindow";
import { ReadAgainWindow, RecutWindow } from "./RecutWindow";
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
  read_again: ReadAgainWindow,
  alike: AlikeWindow,
  soften: SoftenWindow,
  breaths: BreathsWindow,
  even: EvenOutWindow,
  gaps: GapsWindow,
  loudness: LoudnessWindow,
  versions: VersionsWindow,
};

/** The window beside the sheet.  What is chosen in it belongs to the open track: with another one it begins anew. */
export function ShownWindow() {
  const shown = useEditor((s) => s.window);
  const trackId = useEditor((s) => s.trackId);
  if (shown === null) return null;
  const Window = WINDOWS[shown];
  return <Window key={`${shown} ${trackId}`} />;
}
