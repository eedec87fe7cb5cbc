import { type ComponentType, useEffect, useState } from "react";
import { Loading } from "./Messages";
import { Box, Button } from "./parts";

/**
 * A part of the page that is loaded when it is first shown, so that the first load is small. All of them are fetched once there is time,
 * since a page that is open must go on with no signal, also where no service worker may keep it.
 */

const parts: (() => Promise<unknown>)[] = [];

/** A heavy part that few look at is not fetched `ahead`. */
export function onDemand<P extends object>(load: () => Promise<ComponentType<P>>, ahead = true): ComponentType<P> {
  let found: ComponentType<P> | null = null;
  const fetched = async () => {
    found ??= await load();
    return found;
  };
  if (ahead) parts.push(fetched);
  // biome-ignore lint/correctness/noComponentHookFactories: made once for each part, when its module is read
  return function OnDemand(props: P) {
    const [Part, setPart] = useState<ComponentType<P> | null>(() => found);
    const [failed, setFailed] = useState(false);
    useEffect(() => {
      if (Part || failed) return;
      let here = true;
      fetched().then(
        (loaded) => here && setPart(() => loaded),
        () => here && setFailed(true),
      );
      return () => {
        here = false;
      };
    }, [Part, failed]);
    if (Part) return <Part {...props} />;
    if (!failed) return <Loading />;
    return (
      <Box tone="dry" role="alert">
        <p>
          <b>This part of the page could not be loaded.</b> There is no signal, or the server has a newer page.
        </p>
        <Button onClick={() => setFailed(false)}>Retry</Button>{" "}
        <Button onClick={() => location.reload()}>Reload</Button>
      </Box>
    );
  };
}

/** Fetch every part that was not shown yet; one that cannot be had now is tried again when it is shown. */
export async function fetchParts(): Promise<void> {
  for (const part of parts) await part().catch(() => {});
}
