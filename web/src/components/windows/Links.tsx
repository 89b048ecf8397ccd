import { catchUp, letGo } from "../../hooks/following";
import { useEditor } from "../../hooks/useStore";
import { Button, Quiet } from "../ui/controls";
import { Line } from "./PassParts";

/** The tracks that the open one follows; one that has changed since is caught up with in one press. */
export function Links() {
  const links = useEditor((s) => s.content?.links) ?? [];
  return (
    <>
      {links.map((link) => (
        <Line key={link.id}>
          <Quiet>{link.behind ? `Behind ${link.lead}: it has changed since.` : `Follows ${link.lead}.`}</Quiet>
          {link.behind && <Button onPress={() => catchUp(link)}>Catch up</Button>}
          <Button onPress={() => letGo(link.id)} aria-label={`No longer follow ${link.lead}`}>
            Let go
          </Button>
        </Line>
      ))}
    </>
  );
}
