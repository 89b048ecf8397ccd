import { useState } from "react";
import { airFrom, leastStrainFrom } from "../../commands/versions/comps";
import { useEditor } from "../../session/useStore";
import { CheckBox } from "../ui/CheckBox";
import { Button, Segments } from "../ui/controls";
import { Picker } from "../ui/Picker";
import { ValueRow } from "../ui/ValueRow";
import { Line } from "../windows/PassParts";
import styled from "styled-components";

const Fold = styled.details`
  & summary {
    cursor: pointer;
    color: var(--muted);
    padding: 3px 0;
  }
  & > div {
    display: grid;
    gap: 6px;
    padding-bottom: 6px;
  }
`;

const AIR = [
  ["breaths", "Breaths"],
  ["sibilants", "Sibilants"],
  ["all", "All air"],
] as const;
const KINDS = {
  breaths: ["breath"],
  sibilants: ["sibilant"],
  all: ["sibilant", "consonant", "breath"],
} as const;

/** Air from one version, and strained or flagged notes from the one in which they have least strain. */
export function FromVersions() {
  const rows = useEditor((s) => s.compRows);
  const options = rows.map((row) => [row.versionId, row.name] as const);
  const [airOf, setAirOf] = useState<string | null>(null);
  const [air, setAir] = useState<keyof typeof KINDS>("breaths");
  const [from, setFrom] = useState<ReadonlySet<string>>(new Set());
  const [above, setAbove] = useState(50);
  const [flagged, setFlagged] = useState(false);
  const [whole, setWhole] = useState(true);
  const first = airOf ?? rows[0]?.versionId;
  const others = rows.filter((row) => from.has(row.versionId)).map((row) => row.versionId);
  return (
    <Fold>
      <summary>Many places at once</summary>
      <div>
        <Segments
          label="Where"
          options={[
            ["whole", "Whole track"],
            ["here", "Here"],
          ]}
          value={whole ? "whole" : "here"}
          onChange={(next) => setWhole(next === "whole")}
        />
        <Segments label="Which air" options={AIR} value={air} onChange={setAir} />
        <Line>
          <span>from</span>
          <Picker label="Air from" options={options} value={first ?? null} onChange={setAirOf} />
          <Button isDisabled={!first} onPress={() => first && airFrom(first, [...KINDS[air]], whole)}>
            Take air
          </Button>
        </Line>
        <ValueRow label="Strain over" unit="" value={above} min={0} max={100} step={1} onCommit={setAbove} />
        <CheckBox checked={flagged} onChange={setFlagged}>
          Flagged notes too
        </CheckBox>
        <span role="group" aria-label="Versions to take notes from">
          {rows.map((row) => (
            <CheckBox
              key={row.versionId}
              checked={from.has(row.versionId)}
              onChange={(on) => {
                const next = new Set(from);
                if (on) next.add(row.versionId);
                else next.delete(row.versionId);
                setFrom(next);
              }}
            >
              {row.name}
            </CheckBox>
          ))}
        </span>
        <Button isDisabled={others.length === 0} onPress={() => leastStrainFrom(others, above, flagged, whole)}>
          Take notes with least strain
        </Button>
      </div>
    </Fold>
  );
}
