import { useState } from "react";
import styled from "styled-components";
import { type Border, borderText, chosenHere } from "../../document/track/comp";
import { barText, readMoment, secondsText } from "../../document/time/time_text";
import { songToTrack, trackToSong } from "../../document/time/times";
import {
  chooseHere,
  editComp,
  lookAt,
  makeComp,
  openComp,
  removeComp,
  renameComp,
  restoreComp,
  versionFromComp,
} from "../../commands/versions/comps";
import { useEditor } from "../../session/useStore";
import { Body, TargetRow } from "../inspector/inspector_parts";
import { CompSteps } from "../inspector/Steps";
import { type Action, ActionMenu } from "../ui/ActionMenu";
import { Button, Panel, PlainButton, Quiet, Segments, Title } from "../ui/controls";
import { Picker } from "../ui/Picker";
import { TypedField } from "../ui/TypedField";
import { Found, Line } from "../windows/PassParts";
import { FromVersions } from "./FromVersions";

const BorderList = styled.ul`
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
  max-height: 260px;
  overflow: auto;
  font-size: 13px;
  & li {
    display: grid;
    grid-template-columns: 76px 1fr;
    gap: 8px;
    align-items: center;
    padding: 1px 2px;
  }
`;

const Choices = styled(Found)`
  max-height: 300px;
  padding-left: 4px;
`;

const Fields = styled.section`
  display: grid;
  gap: 5px;
`;

/** Beside the comp view: the comp, what is looked at, its borders, and what is done for many places at once. */
export function CompPanel() {
  const [tab, setTab] = useState<"comp" | "steps">("comp");
  const there = useEditor((s) => s.comp !== null);
  return (
    <Panel aria-label="Comp panel">
      <Title as="div">
        <Segments
          label="Panel shows"
          options={[
            ["comp", "Comp"],
            ["steps", "Steps"],
          ]}
          value={tab}
          onChange={setTab}
        />
      </Title>
      {tab === "steps" && there ? (
        <CompSteps />
      ) : (
        <Body>
          <Which />
          {there && (
            <>
              <Behind />
              <Here />
              <FromVersions />
              <Borders />
            </>
          )}
        </Body>
      )}
    </Panel>
  );
}

/** Which comp is open, and what can be done with it as a whole. */
function Which() {
  const comps = useEditor((s) => s.comps) ?? [];
  const removed = useEditor((s) => s.removedComps);
  const comp = useEditor((s) => s.comp);
  const next = `Comp ${comps.length + removed.length + 1}`;
  const actions: Action[] = [
    ["New comp", () => void makeComp(next)],
    ...(comp
      ? ([
          ["Make a version of it", () => void versionFromComp(`${comp.version.name}, as one`)],
          ["Remove this comp", () => void removeComp()],
        ] as const)
      : []),
    ...removed.map((one) => [`Bring back “${one.name}”`, () => void restoreComp(one.id)] as const),
  ];
  return (
    <>
      <Line>
        {comp && (
          <Picker
            label="Comp"
            options={comps.map((one) => [one.id, one.name])}
            value={comp.version.id}
            onChange={(id) => void openComp(id)}
          />
        )}
        <ActionMenu label="More for the comp" text="More…" actions={actions} />
      </Line>
      {comp && (
        <TargetRow>
          <span>Name</span>
          <TypedField label="Name of the comp" text={comp.version.name} onCommit={renameComp} />
        </TargetRow>
      )}
    </>
  );
}

/** Versions that were changed since they were chosen. */
function Behind() {
  const behind = useEditor((s) => s.comp?.behind) ?? [];
  const versions = useEditor((s) => s.versions);
  const names = behind.map((id) => versions.find((version) => version.id === id)?.name ?? "A removed version");
  if (names.length === 0) return null;
  return (
    <Line role="status">
      <span>{`${names.join(" and ")} ${names.length === 1 ? "was" : "were"} changed since ${names.length === 1 ? "it was" : "they were"} chosen.`}</span>
      <Button onPress={() => void editComp({ type: "catch_up" })}>Catch up</Button>
    </Line>
  );
}

/** The stretch that is looked at, typed, and the versions it can be taken from. */
function Here() {
  const here = useEditor((s) => s.compHere);
  const comp = useEditor((s) => s.comp);
  const rows = useEditor((s) => s.compRows);
  const song = useEditor((s) => s.song);
  const times = useEditor((s) => s.view.times);
  if (!here || !comp || !song) return null;
  const chosen = chosenHere(comp, here, times);
  const field = (label: string, at: number, set: (moment: number) => boolean) => (
    <TargetRow>
      <span>{label}</span>
      <TypedField
        label={`${label} of the stretch`}
        text={secondsText(at)}
        onCommit={(typed) => {
          const moment = readMoment(typed, song);
          return moment !== null && set(moment);
        }}
      />
    </TargetRow>
  );
  return (
    <Fields aria-label="Here">
      <Quiet>{`Here: bar ${barText(here.start_s, song)} to ${barText(here.end_s, song)}`}</Quiet>
      {field("From", here.start_s, (at) => lookAt(at, here.end_s))}
      {field("To", here.end_s, (at) => lookAt(here.start_s, at))}
      <Choices as="div" role="group" aria-label="Choose here">
        {rows.map((row, place) => (
          <div key={row.versionId}>
            <PlainButton aria-pressed={chosen === row.versionId} onPress={() => chooseHere(place)}>
              {`${chosen === row.versionId ? "●" : "○"} ${place + 1}  ${row.name}`}
            </PlainButton>
          </div>
        ))}
      </Choices>
    </Fields>
  );
}

function Borders() {
  const comp = useEditor((s) => s.comp);
  const song = useEditor((s) => s.song);
  const times = useEditor((s) => s.view.times);
  if (!comp || !song) return null;
  const heard = comp.borders.filter((border) => !border.clean).length;
  const place = (border: Border): number => trackToSong(border.asked_s, times);
  const text =
    comp.borders.length === 0
      ? "One version throughout: no borders."
      : `${comp.borders.length === 1 ? "1 border" : `${comp.borders.length} borders`}, ${heard === 0 ? "none" : heard} that can be heard`;
  return (
    <section aria-label="Borders">
      <Quiet>{text}</Quiet>
      <BorderList aria-label="List of borders">
        {comp.borders.map((border) => (
          <li key={border.choice_id}>
            <TypedField
              label={`Border at ${barText(place(border), song)}`}
              text={secondsText(place(border))}
              onCommit={(typed) => {
                const at = readMoment(typed, song);
                if (at === null) return false;
                return editComp({ type: "move_border", choice_id: border.choice_id, to_s: songToTrack(at, times) });
              }}
            />
            <span>{`${border.clean ? "" : "⚑ "}${nameAfter(comp, border)}; ${borderText(border)}`}</span>
          </li>
        ))}
      </BorderList>
    </section>
  );
}

function nameAfter(comp: { choices: readonly { id: string; name: string }[] }, border: Border): string {
  return `to ${comp.choices.find((choice) => choice.id === border.choice_id)?.name ?? "?"}`;
}
