import type { LinkOut } from "../../../document/schema";
import { catchUp, letCatchUp, letGo } from "../../../commands/voices/following";
import { useEditor } from "../../../session/useStore";
import { CheckBox } from "../../ui/CheckBox";
import { Button, Quiet } from "../../ui/controls";
import { Line } from "../PassParts";

/** The tracks that the open one follows; one that has changed since is caught up with in one press. */
export function Links() {
  const links = useEditor((s) => s.content?.links) ?? [];
  return (
    <>
      {links.map((link) => (
        <Line key={link.id}>
          <Quiet>{link.behind ? `Behind ${link.lead}: it has changed since.` : `Follows ${link.lead}.`}</Quiet>
          {link.behind && <Button onPress={() => catchUp(link.id)}>Catch up</Button>}
          <ByItself link={link} />
          <Button onPress={() => letGo(link.id)} aria-label={`No longer follow ${link.lead}`}>
            Let go
          </Button>
        </Line>
      ))}
    </>
  );
}

/** Whether a link catches up as soon as its lead has changed. */
export function ByItself({ link }: { link: LinkOut }) {
  return (
    <CheckBox
      checked={link.by_itself}
      onChange={(on) => letCatchUp(link.id, on)}
      label={`Catch up with ${link.lead} by itself`}
    >
      By itself
    </CheckBox>
  );
}
