import { create } from "zustand";

/** Whether this page opens with no signal: a worker keeps it; `newer` is one that waits to take over with a newer page. */
type Offline = { able: boolean; newer: ServiceWorker | null };

export const useOffline = create<Offline>(() => ({ able: false, newer: null }));

/** Whether this address may keep pages at all: browsers ask for one that is trusted. */
export const trusted = (): boolean => globalThis.isSecureContext && "serviceWorker" in navigator;

export function openOffline(): void {
  if (!trusted() || !import.meta.env.PROD) return;
  const workers = navigator.serviceWorker;
  const found = (registration: ServiceWorkerRegistration) => {
    const look = () => {
      if (registration.waiting && workers.controller) useOffline.setState({ newer: registration.waiting });
      if (registration.active) useOffline.setState({ able: true });
    };
    look();
    registration.addEventListener("updatefound", () => registration.installing?.addEventListener("statechange", look));
  };
  void workers
    .register("/sw.js")
    .then(found)
    .catch(() => {}); // a browser told to keep nothing: the page works as before, while there is a signal
  void workers.ready.then(() => useOffline.setState({ able: true }));
  void navigator.storage?.persist?.();
}

/** Go over to the newer page; what was said and drawn here is kept, and there again. */
export function goOver(worker: ServiceWorker): void {
  navigator.serviceWorker.addEventListener("controllerchange", () => location.reload(), { once: true });
  worker.postMessage("take over");
}
