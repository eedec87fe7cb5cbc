import { useRef, useState } from "react";
import { api, Refused } from "../../api/client";
import type { Plan } from "../../api/types";
import { useTools } from "../../drawing/toolStore";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { useFormat } from "../../ui/context";
import { Button, Fold } from "../../ui/parts";
import { Typed, Words } from "../../ui/Typed";

type Beneath = NonNullable<Plan["underlay"]>;

const WIDEST = 2600; // px a photo is made no wider than before it is sent
const ROUGH = 40; // m that a picture without a scale is laid down wide

/** A picture or plan behind the drawing: brought in, scaled by two places and their distance, turned, dimmed, taken away. */
export function PictureBeneath() {
  const { plan } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const take = useTools((s) => s.take);
  const input = useRef<HTMLInputElement>(null);
  const [told, setTold] = useState("");
  const [far, setFar] = useState<File | null>(null);
  const under = plan.underlay;
  const bring = async (file: File, trim = false) => {
    try {
      const kept = await api.keepPicture(await smaller(file), trim);
      setFar(kept.far ? file : null);
      const xs = plan.points.map((p) => p.x);
      const ys = plan.points.map((p) => p.y);
      const scale = kept.metre || ROUGH / kept.wide;
      const laid: Beneath = {
        picture: kept.picture,
        name: file.name.slice(0, 80),
        wide: kept.wide,
        high: kept.high,
        x: xs.length ? Math.min(...xs) : 0,
        y: ys.length ? Math.min(...ys) : 0,
        scale,
        turn: 0,
        strength: 0.45,
      };
      edit((p) => ({ ...p, underlay: laid }));
      const scaled = kept.metre
        ? "It says its own scale: check it against a length you know."
        : "It has no scale yet: take it from two places whose distance you know.";
      setTold(kept.left_out ? `${scaled} Not shown of the file: ${kept.left_out}.` : scaled);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setTold([error.problem.detail, ...(error.problem.places ?? []).map((p) => p.says)].join(" "));
    }
    if (input.current) input.current.value = "";
  };
  const set = (change: Partial<Beneath>) =>
    edit((p) => (p.underlay ? { ...p, underlay: { ...p.underlay, ...change } } : p));
  return (
    <Fold title="Background picture or plan" note={under ? under.name : "none"} folded>
      <input
        ref={input}
        type="file"
        accept=".png,.jpg,.jpeg,.tif,.tiff,.webp,.pdf,.svg,.dxf,.geojson,.json,image/*"
        aria-label="Picture or plan"
        className="block w-full text-[0.875rem] file:mr-3 file:min-h-[40px] pointer-coarse:file:min-h-[44px] file:rounded-[4px] file:border file:border-line file:bg-panel file:px-3"
        onChange={(e) => e.target.files?.[0] && void bring(e.target.files[0])}
      />
      <p className="text-[0.8125rem] text-muted">
        PNG, JPEG, TIFF, PDF, SVG, DXF or GeoJSON, up to 20 MB. Nothing is derived from it.
      </p>
      {told && <p role="status">{told}</p>}
      {far && (
        <p>
          Some lines of it lie far off the rest, so all else is small.{" "}
          <Button onClick={() => void bring(far, true)}>Bring it in without them</Button>
        </p>
      )}
      {under && (
        <>
          <Scale under={under} onScale={set} />
          <div className="mt-2 grid grid-cols-2 gap-x-3 gap-y-2">
            <Typed label="Its corner east" quantity="length" value={under.x ?? 0} onValue={(x) => set({ x })} />
            <Typed label="and north" quantity="length" value={under.y ?? 0} onValue={(y) => set({ y })} />
            <Typed
              label="Turned to the left by"
              quantity="angle"
              value={under.turn ?? 0}
              onValue={(turn) => set({ turn })}
            />
            <label className="flex flex-col text-[0.8125rem] text-muted">
              How strong it is seen
              <input
                type="range"
                min={0.1}
                max={1}
                step={0.05}
                value={under.strength ?? 0.45}
                className="min-h-[36px] accent-water"
                onChange={(e) => set({ strength: Number(e.target.value) })}
              />
            </label>
          </div>
          <Button
            tone="dry"
            className="mt-2"
            onClick={() => {
              edit((p) => ({ ...p, underlay: null }));
              take({ kind: "select" });
              setTold("");
              setFar(null);
            }}
          >
            Take it away
          </Button>
        </>
      )}
    </Fold>
  );
}

/** The scale by two places pressed on the drawing and the distance between them; the first place stays where it is. */
function Scale({ under, onScale }: { under: Beneath; onScale: (change: Partial<Beneath>) => void }) {
  const { tool, take } = useTools();
  const format = useFormat();
  const [text, setText] = useState("");
  const [fault, setFault] = useState("");
  const [a, b] = tool.kind === "scale" ? tool.spots : [];
  const apply = async () => {
    if (!a || !b) return;
    const now = Math.hypot(b.x - a.x, b.y - a.y);
    try {
      const { value } = await api.read(text, "length", format.system);
      const by = value / now;
      if (!(by > 0) || !Number.isFinite(by)) {
        setFault("Press two different places, and type a distance above zero.");
        return;
      }
      const { x = 0, y = 0, scale = 1 } = under;
      onScale({ scale: scale * by, x: a.x + (x - a.x) * by, y: a.y + (y - a.y) * by });
      setFault("");
      setText("");
      take({ kind: "select" });
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setFault(error.problem.detail);
    }
  };
  return (
    <div className="mt-2 flex flex-wrap items-end gap-2">
      <Button
        aria-pressed={tool.kind === "scale"}
        tone={tool.kind === "scale" ? "main" : "plain"}
        onClick={() => take({ kind: "scale", spots: [] })}
      >
        Take its scale
      </Button>
      {tool.kind === "scale" && !b && (
        <span role="status">{a ? "Press the second place." : "Press the first of two places on it."}</span>
      )}
      {a && b && (
        <>
          <Words label="They are apart by" value={text} hint="12.4 m" onValue={setText} live />
          <Button tone="main" disabled={!text.trim()} onClick={() => void apply()}>
            Set the scale
          </Button>
        </>
      )}
      {fault && <p className="w-full text-fault">{fault}</p>}
    </div>
  );
}

/** A photo made no larger than is looked at, without what it tells of where it was taken; anything else as it is. */
async function smaller(file: File): Promise<Blob> {
  if (!["image/png", "image/jpeg", "image/webp"].includes(file.type)) return file;
  try {
    const picture = await createImageBitmap(file);
    const by = Math.min(1, WIDEST / Math.max(picture.width, picture.height));
    if (file.type === "image/png" && by === 1) return file;
    const canvas = document.createElement("canvas");
    canvas.width = Math.max(1, Math.round(picture.width * by));
    canvas.height = Math.max(1, Math.round(picture.height * by));
    canvas.getContext("2d")?.drawImage(picture, 0, 0, canvas.width, canvas.height);
    const type = file.type === "image/png" ? "image/png" : "image/jpeg";
    return await new Promise((done) => canvas.toBlob((b) => done(b ?? file), type, 0.85));
  } catch {
    return file; // the server says what is wrong with it
  }
}
