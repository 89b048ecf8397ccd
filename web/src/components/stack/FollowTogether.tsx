import { useState } from "react";
import { vocalsOf } from "../../document/track/vocals";
import { editTracks } from "../../commands/stack";
import { useEditor } from "../../session/useStore";
import { showWindow } from "../../session/view";
import { Button, MainButton, Quiet } from "../ui/controls";
import { Picker } from "../ui/Picker";
import { FollowStrengths, useFollowStrengths } from "../windows/voices/FollowStrengths";
import { Line } from "../windows/PassParts";
import { SideWindow } from "../windows/SideWindow";

/** Let all chosen tracks follow another one, in one step. */
export function FollowTogether() {
  const chosen = useEditor((s) => s.chosenTracks);
  const leads = vocalsOf(useEditor((s) => s.song));
  const first = leads.find((track) => track.role === "lead" && !chosen.has(track.id)) ?? leads[0];
  const [lead, setLead] = useState(first?.id ?? "");
  const { values, set, strengths } = useFollowStrengths();
  const followers = leads.filter((track) => chosen.has(track.id) && track.id !== lead);
  return (
    <SideWindow title="Follow together" onClose={() => showWindow(null)}>
      <Picker label="Lead" options={leads.map((t) => [t.id, t.name] as const)} value={lead} onChange={setLead} />
      <FollowStrengths values={values} onChange={set} />
      <Quiet aria-live="polite">
        {followers.length === 0
          ? "Choose the tracks that are to follow it."
          : `${followers.map((track) => track.name).join(", ")}: what was edited by hand is kept.`}
      </Quiet>
      <Line>
        <MainButton
          isDisabled={followers.length === 0 || strengths.timing + strengths.pitch + strengths.level === 0}
          onPress={() =>
            void editTracks(
              { type: "follow", lead_track: lead, ...strengths },
              followers.map((track) => track.id),
            ).then((done) => done && showWindow(null))
          }
        >
          Let them follow
        </MainButton>
        <Button onPress={() => showWindow(null)}>Leave</Button>
      </Line>
    </SideWindow>
  );
}
