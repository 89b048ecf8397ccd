import styled from "styled-components";
import { signed } from "../../document/music/pitch_names";
import type { LoudnessesOut, LoudnessOut } from "../../document/schema";
import { useLoudness } from "../../hooks/loudness";
import { showWindow } from "../../session/view";
import { SideWindow } from "./SideWindow";
import { Quiet } from "../ui/controls";

const Table = styled.table`
  border-collapse: collapse;
  font-variant-numeric: tabular-nums;
  & th,
  & td {
    padding: 4px 6px;
    text-align: right;
    font-weight: 450;
  }
  & thead th {
    color: var(--muted);
  }
  & tbody th {
    text-align: left;
  }
  & tbody tr {
    border-top: 1px solid var(--edge);
  }
`;

function loudness(found: LoudnessOut): string {
  return found.integrated_lufs === null ? "silence" : `${signed(found.integrated_lufs, 1)} LUFS`;
}

function peak(found: LoudnessOut): string {
  return `${signed(found.true_peak_dbtp, 1)} dBTP`;
}

function Rows({ name, found }: { name: string; found: LoudnessesOut }) {
  return (
    <>
      <tr>
        <th scope="row">{`${name}, loudness`}</th>
        <td>{loudness(found.sung)}</td>
        <td>{loudness(found.tuned)}</td>
      </tr>
      <tr>
        <th scope="row">{`${name}, true peak`}</th>
        <td>{peak(found.sung)}</td>
        <td>{peak(found.tuned)}</td>
      </tr>
    </>
  );
}

/** Integrated loudness and true peak, before and after. */
export function LoudnessWindow() {
  const found = useLoudness();
  return (
    <SideWindow title="Loudness" onClose={() => showWindow(null)}>
      <Quiet>Integrated loudness and true peak after ITU-R BS.1770.</Quiet>
      {found ? (
        <Table>
          <thead>
            <tr>
              <td />
              <th scope="col">As sung</th>
              <th scope="col">Tuned</th>
            </tr>
          </thead>
          <tbody>
            <Rows name="Track" found={found.track} />
            {found.selection && <Rows name="Selection" found={found.selection} />}
          </tbody>
        </Table>
      ) : (
        <p role="status">Measuring…</p>
      )}
      {found && !found.selection && <Quiet>Select notes or air to measure a stretch.</Quiet>}
    </SideWindow>
  );
}
