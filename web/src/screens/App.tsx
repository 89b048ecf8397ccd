import { useEffect, useState } from "react";
import { MessageBanner, PageStyle } from "../components/ui/Page";
import { ChangedTrack } from "../components/windows/song/TrackWindow";
import { readAddress } from "../session/address";
import { closeTrack, openTrack } from "../commands/song/opening";
import { useStranger } from "../hooks/access";
import { signInByAddress } from "../commands/signing_in";
import { Editor } from "./Editor";
import { SignIn } from "./SignIn";
import { Songs } from "./Songs";

export function App() {
  const [songId, setSongId] = useState<string | null>(readAddress().songId);
  const stranger = useStranger();
  useEffect(signInByAddress, []);
  useEffect(() => {
    const follow = (): void => {
      const place = readAddress();
      setSongId(place.songId);
      if (place.songId) void openTrack(place.songId, place.trackId, place.query);
      else closeTrack();
    };
    follow();
    window.addEventListener("hashchange", follow);
    return () => window.removeEventListener("hashchange", follow);
  }, []);
  if (stranger) {
    return (
      <>
        <PageStyle />
        <SignIn />
      </>
    );
  }
  return (
    <>
      <PageStyle />
      <ChangedTrack />
      {songId ? (
        <Editor />
      ) : (
        <>
          <Songs />
          <MessageBanner />
        </>
      )}
    </>
  );
}
