import { type ReactNode, useEffect, useState } from "react";
import styled from "styled-components";
import { secondsText } from "../../document/time/time_text";
import type { ClaimOut, PlaceOut, SingerNotesOut } from "../../document/schema";
import { trackOf } from "../../document/track/store";
import { hearPlace, loadSingerNotes, printPage, singerNotesUrl } from "../../commands/reporting";
import { changeTrack } from "../../listening/stack_levels";
import { useEditor } from "../../session/useStore";
import { Button, Quiet } from "../ui/controls";
import { Picker } from "../ui/Picker";
import { TypedField } from "../ui/TypedField";
import { HabitPlot, round } from "./HabitPlot";
import { Choice, Paper } from "./paper";

const SCOPES = [
  ["take", "This take"],
  ["song", "This song"],
  ["singer", "All songs"],
] as const;

const Claimed = styled.section`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 310px;
  gap: 4px 24px;
  padding: 12px 0;
  border-top: 1px solid var(--edge);
  break-inside: avoid;
  & h3 {
    margin: 0;
    font-size: 15.5px;
  }
  & p {
    margin: 3px 0;
  }
  & ul {
    list-style: none;
    margin: 6px 0 0;
    padding: 0;
    display: grid;
    gap: 4px;
  }
  & li {
    display: flex;
    gap: 8px;
    align-items: center;
  }
  & li > span {
    min-width: 150px;
  }
  & button {
    min-height: 24px;
    padding: 1px 8px;
  }
  @media print {
    & button {
      display: none;
    }
  }
`;

const Who = styled.label`
  display: flex;
  align-items: center;
  gap: 8px;
  & input {
    width: 150px;
  }
`;

function Place({ place, unit }: { place: PlaceOut; unit: string }) {
  const here = useEditor((s) => s.trackId === place.track_id);
  const words = `bar ${place.bar}, ${secondsText(place.start_s)}${place.word ? ` “${place.word}”` : ""}`;
  return (
    <li>
      <span>{here ? words : `${place.track}, ${words}`}</span>
      <Quiet>{`${round(place.value)} ${unit}`}</Quiet>
      {here ? (
        (["sung", "tuned"] as const).map((as) => (
          <Button key={as} onPress={() => hearPlace(place, as)} aria-label={`Hear bar ${place.bar} ${WORDS[as]}`}>
            {as === "sung" ? "As sung" : "Tuned"}
          </Button>
        ))
      ) : (
        <Button onPress={() => hearPlace(place, "sung")}>Open it</Button>
      )}
    </li>
  );
}

const WORDS = { sung: "as sung", tuned: "tuned" } as const;

function Claim({ claim }: { claim: ClaimOut }) {
  return (
    <Claimed aria-label={claim.words}>
      <div>
        <h3>{`${claim.words} (${claim.count} of ${claim.of})`}</h3>
        <p>
          <Quiet>{`Sure to 99 %: between ${round(claim.low)} and ${round(claim.high)} ${claim.unit}.`}</Quiet>
        </p>
        {claim.change !== "" && <p>{`Over time: ${claim.change}.`}</p>}
        {claim.practise !== "" && <p>{`To practise: ${claim.practise}`}</p>}
        <ul aria-label={`Where it is clearest: ${claim.words}`}>
          {claim.clearest.map((place) => (
            <Place key={`${place.track_id}${place.start_s}`} place={place} unit={claim.unit} />
          ))}
        </ul>
      </div>
      <HabitPlot claim={claim} />
    </Claimed>
  );
}

/** What this singer tends to do, each claim with its evidence and places to hear. */
export function SingerNotesPage({ tabs }: { tabs: ReactNode }) {
  const track = useEditor(trackOf);
  const step = useEditor((s) => s.content?.step_id);
  const [scope, setScope] = useState<string>("take");
  const [found, setFound] = useState<{ of: string; notes: SingerNotesOut | null } | null>(null);
  const asked = `${track?.id ?? ""} ${track?.singer ?? ""} ${scope} ${step ?? ""}`;
  useEffect(() => {
    let still = true;
    void loadSingerNotes(scope).then((notes) => still && setFound({ of: asked, notes }));
    return () => {
      still = false;
    };
  }, [asked, scope]);
  if (!track) return null;
  const notes = found?.of === asked ? found.notes : null;
  const some = (kind: string): ClaimOut[] => notes?.claims.filter((claim) => claim.kind === kind) ?? [];
  const [faults, praise] = [some("fault"), some("praise")];
  return (
    <>
      <Choice role="toolbar" aria-label="Report">
        {tabs}
        <Who>
          Singer
          <TypedField
            label="Singer of this track"
            text={track.singer}
            onCommit={(singer) => changeTrack(track.id, { singer: singer.trim() })}
          />
        </Who>
        <Picker label="Notes on" options={SCOPES} value={scope} onChange={setScope} />
        <span className="room" />
        <Button onPress={printPage}>Print the page…</Button>
        <a href={singerNotesUrl(track.id, scope)} download>
          Save the numbers as CSV
        </a>
      </Choice>
      <Paper aria-label="Singer notes">
        {found?.of !== asked && <Quiet role="status">Listening…</Quiet>}
        {notes && (
          <>
            <h2>{`Singer notes: ${notes.singer}`}</h2>
            <p>{`${notes.notes} notes of ${notes.takes === 1 ? "one take" : `${notes.takes} takes`}, read ${Math.round(100 * notes.confidence)} % sure${notes.left_out > 0 ? `; ${notes.left_out} more were too short, spoken or unsure` : ""}. Only what they carry is said.`}</p>
            {faults.length === 0 && <p>Nothing stands out that wants practice.</p>}
            {faults.map((claim) => (
              <Claim key={claim.name} claim={claim} />
            ))}
            {praise.length > 0 && <h2>What goes well</h2>}
            {praise.map((claim) => (
              <Claim key={claim.name} claim={claim} />
            ))}
          </>
        )}
      </Paper>
    </>
  );
}
