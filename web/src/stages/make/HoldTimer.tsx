import { useEffect, useState } from "react";
import { Button } from "../../ui/parts";

/** A big ring that counts a hold down; it sounds and shakes where the device allows. */
export function HoldTimer({ seconds, word, onRun }: { seconds: number; word: string; onRun: (on: boolean) => void }) {
  const [end, setEnd] = useState<number | null>(null);
  const [left, setLeft] = useState(seconds);
  useEffect(() => {
    if (end === null) return;
    const tick = () => {
      const rest = Math.max(0, (end - performance.now()) / 1000);
      setLeft(rest);
      if (rest === 0) {
        setEnd(null);
        onRun(false);
        signal();
      }
    };
    const timer = setInterval(tick, 100);
    return () => clearInterval(timer);
  }, [end, onRun]);
  useEffect(() => {
    if (end === null) return;
    const awake = navigator.wakeLock?.request("screen").catch(() => null); // both hands are at the joint
    return () => void awake?.then((lock) => lock?.release());
  }, [end]);
  const r = 62;
  const round = 2 * Math.PI * r;
  const done = left === 0;
  return (
    <div className="my-2 flex flex-col items-center">
      <svg
        width="156"
        height="156"
        viewBox="-78 -78 156 156"
        role="timer"
        aria-label={`${Math.ceil(left)} seconds, ${word}`}
      >
        <circle r={r} fill="var(--color-panel)" stroke="var(--color-line)" strokeWidth="13" />
        <circle
          r={r}
          fill="none"
          stroke={done ? "var(--color-proved)" : "var(--color-water)"}
          strokeWidth="13"
          strokeDasharray={`${round * (1 - left / seconds)} ${round}`}
          transform="rotate(-90)"
          strokeLinecap="round"
        />
        <text textAnchor="middle" y="10" fontSize="38" fontWeight="700" fill="var(--color-ink)">
          {Math.ceil(left)} s
        </text>
        <text textAnchor="middle" y="32" fontSize="13" fill="var(--color-muted)">
          {done ? "let go" : end ? "keep holding" : word}
        </text>
      </svg>
      <p className="sr-only" aria-live="assertive">
        {done ? "The hold is over: let go." : ""}
      </p>
      <Button
        big
        className="mt-1 w-full"
        onClick={() => {
          setLeft(seconds);
          setEnd(end === null ? performance.now() + seconds * 1000 : null);
          onRun(end === null);
        }}
      >
        {end === null ? (done ? "Hold again" : "Start the hold") : "Stop"}
      </Button>
    </div>
  );
}

function signal() {
  navigator.vibrate?.([200, 100, 200]);
  try {
    const context = new AudioContext();
    const tone = context.createOscillator();
    tone.frequency.value = 880;
    tone.connect(context.destination);
    tone.start();
    tone.stop(context.currentTime + 0.35);
  } catch {
    // a device without sound: the ring and the shake say it
  }
}
