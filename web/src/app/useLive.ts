import { useEffect } from "react";
import { useJob } from "./jobStore";

/** News from the server as others work on the same job; on return from no signal, what was kept is sent. */
export function useLive(id: string) {
  const refresh = useJob((s) => s.refresh);
  const refetch = useJob((s) => s.refetch);
  useEffect(() => {
    const news = new EventSource(`/api/jobs/${encodeURIComponent(id)}/live`);
    news.onmessage = (e) => void (e.data === "plan" ? refetch() : refresh());
    const back = () => void refresh();
    addEventListener("online", back);
    const again = setInterval(() => {
      if (useJob.getState().waiting > 0 || useJob.getState().saving.kind === "offline") void refresh();
    }, 4000);
    return () => {
      news.close();
      clearInterval(again);
      removeEventListener("online", back);
    };
  }, [id, refresh, refetch]);
}
