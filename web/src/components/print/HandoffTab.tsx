import { useState } from "react";
import styled from "styled-components";
import { secondsText } from "../../document/time/time_text";
import { bringIn, type Handoff, linkFolder, takeTempo, useHandoff } from "../../commands/song/handoff";
import { Button, Field, MainButton, Quiet } from "../ui/controls";
import { Picker } from "../ui/Picker";
import { Rows } from "./print_parts";

const Files = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 30vh;
  overflow: auto;
  & li {
    display: flex;
    gap: 10px;
    align-items: center;
    justify-content: space-between;
    padding: 2px 0;
    overflow-wrap: anywhere;
  }
  & small {
    color: var(--muted);
    font-size: 12.5px;
  }
`;

const STATES = { new: "new", known: "brought in", changed: "changed since", unusable: "cannot be used" } as const;

function Linking(props: { folders: readonly string[]; root: string; onDone: () => void }) {
  const [name, setName] = useState("");
  return (
    <>
      <Quiet>Folder</Quiet>
      <span className="line">
        {props.folders.length > 0 && (
          <Picker
            label="Hand-off folder"
            placeholder="Choose…"
            options={props.folders.map((one) => [one, one])}
            value={null}
            onChange={(one) => void linkFolder(one).then(props.onDone)}
          />
        )}
        <span style={{ width: 180 }}>
          <Field
            aria-label="Name of a new folder"
            placeholder="New folder"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </span>
        <Button isDisabled={!name.trim()} onPress={() => void linkFolder(name.trim(), true).then(props.onDone)}>
          Make it
        </Button>
      </span>
      <span />
      <Quiet>{`Folders lie in ${props.root}. What the host leaves in “in” is brought in at its time stamp; prints go to “out”.`}</Quiet>
    </>
  );
}

function Incoming({ state, look }: { state: Handoff; look: () => void }) {
  const fresh = state.incoming.filter((one) => one.state === "new").map((one) => one.file);
  return (
    <>
      <Quiet>In</Quiet>
      <Files aria-label="Files from the host">
        {state.incoming.length + state.midi.length === 0 && <li>Nothing lies there yet.</li>}
        {state.incoming.map((one) => (
          <li key={one.file}>
            <span>
              {one.file}{" "}
              <small>
                {one.problem ||
                  `${secondsText(one.seconds, 1)}, ${one.time_reference === null ? "no time stamp" : "time stamp"}, ${STATES[one.state]}`}
              </small>
            </span>
            {one.state === "new" && (
              <Button aria-label={`Bring ${one.file} in`} onPress={() => void bringIn([one.file]).then(look)}>
                Bring in
              </Button>
            )}
            {one.state === "changed" && (
              <Button
                aria-label={`Bring ${one.file} in as a new take`}
                onPress={() => void bringIn([one.file]).then(look)}
              >
                As a new take
              </Button>
            )}
          </li>
        ))}
        {state.midi.map((file) => (
          <li key={file}>
            <span>{file}</span>
            <Button aria-label={`Take tempo and key of ${file}`} onPress={() => void takeTempo(file)}>
              Take tempo and key
            </Button>
          </li>
        ))}
      </Files>
      {fresh.length > 1 && (
        <>
          <span />
          <span className="line">
            <MainButton onPress={() => void bringIn(fresh).then(look)}>{`Bring all ${fresh.length} in`}</MainButton>
          </span>
        </>
      )}
    </>
  );
}

/** The folder that a recording host and the song share. */
export function HandoffTab({ onClose }: { onClose: () => void }) {
  const { folders, state, look } = useHandoff();
  return (
    <Rows>
      {folders && state?.folder == null && <Linking folders={folders.folders} root={folders.root} onDone={look} />}
      {state?.folder != null && (
        <>
          <Quiet>Folder</Quiet>
          <span className="line">
            <strong>{state.folder}</strong>
            <Button onPress={look}>Look again</Button>
            <Button onPress={() => void linkFolder(null).then(look)}>Unlink</Button>
          </span>
          {state.problem ? (
            <>
              <span />
              <strong role="alert">{state.problem}</strong>
            </>
          ) : (
            <>
              <Incoming state={state} look={look} />
              <Quiet>Out</Quiet>
              <Files aria-label="Prints in the folder">
                {state.outgoing.length === 0 && <li>No print yet: say so under “New print”.</li>}
                {state.outgoing.map((file) => (
                  <li key={file}>{file}</li>
                ))}
              </Files>
            </>
          )}
        </>
      )}
      <span className="end">
        <Button onPress={onClose}>Close</Button>
      </span>
    </Rows>
  );
}
