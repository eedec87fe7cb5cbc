import type { ReactNode } from "react";

/** Every kind of joint in section: what goes into what, what holds it, and what the hands do. The pipe comes from the left, its mark at 172. */

const ink = "var(--color-ink)";
const wall = { fill: "var(--color-panel)", stroke: ink, strokeWidth: 2 } as const;
const soft = { fill: "var(--color-pipe-dark)", stroke: ink, strokeWidth: 1 } as const;
const rubber = { fill: "var(--color-dry)", stroke: ink, strokeWidth: 1 } as const;
const water = "var(--color-water)";

export type JointSection = { draws: ReactNode; does: string; marked: boolean };

/** Both walls of a pipe from `a` to `b`, `r` from its axis outside, and the water in it. */
const Tube = ({ a = 20, b, r = 29, t = 12, style = wall }: TubeProps) => (
  <>
    <rect x={a} y={77 - r} width={b - a} height={t} {...style} />
    <rect x={a} y={77 + r - t} width={b - a} height={t} {...style} />
    <rect x={a} y={78 - r + t} width={b - a} height={2 * (r - t) - 2} fill="var(--color-water-soft)" />
  </>
);
type TubeProps = { a?: number; b: number; r?: number; t?: number; style?: typeof wall | typeof soft };

/** A shape above the axis, and the same below it. */
const Both = ({ d, style = wall }: { d: string; style?: object }) => (
  <>
    <path d={d} {...style} />
    <path d={d} {...style} transform="matrix(1 0 0 -1 0 154)" />
  </>
);

const push = <path d="M70 77h54m0 0l-12-7m12 7l-12 7" stroke={water} strokeWidth={4} fill="none" />;
const turn = <path d="M60 34a26 10 0 0 1 52 0m0 0l-9-3m9 3l4-9" stroke={water} strokeWidth={3} fill="none" />;
const TEETH = Array.from({ length: 9 }, (_, i) => 176 + i * 9);

const socket = (
  <>
    <rect x={252} y={61} width={48} height={32} fill="var(--color-water-soft)" />
    <Both d="M176 36H300V60H254V52L176 48Z" />
  </>
);
const barbs = <Both d="M176 60L190 58L190 64L206 58V64L222 58V64L238 58V64H254V46H276V62H320V70H176Z" />;
const hose = (
  <>
    <rect x={20} y={44} width={232} height={14} {...soft} />
    <rect x={20} y={96} width={232} height={14} {...soft} />
    <rect x={20} y={70} width={300} height={14} fill="var(--color-water-soft)" />
    {barbs}
  </>
);
const male = (
  <>
    <path d={`M20 50H176${TEETH.map((x) => `L${x + 4} 46L${x + 9} 52`).join("")}V62H20Z`} {...wall} />
    <path d={`M20 104H176${TEETH.map((x) => `L${x + 4} 108L${x + 9} 102`).join("")}V92H20Z`} {...wall} />
    <rect x={20} y={64} width={290} height={26} fill="var(--color-water-soft)" />
  </>
);

/** A body the pipe goes into, with a nut that presses a ring on it; a `grip` has teeth, a plain one has not. */
const nutted = (grip: boolean) => (
  <>
    <Tube b={268} />
    <Both d="M214 34H320V62H290V48H214Z" />
    <Both d="M204 40l10-6v12l-10 2Z" style={rubber} />
    {grip && <Both d="M178 47l6-6l4 6l6-6l4 6Z" style={{ fill: ink }} />}
    <Both d="M160 46V24H246V34H208L196 40H176V46Z" />
    {turn}
  </>
);

const gripping: JointSection = { draws: nutted(true), does: "pipe to the mark, then the nut", marked: true };

export const sections: Record<string, JointSection> = {
  "solvent weld": {
    draws: (
      <>
        {socket}
        <Tube b={252} />
        {push}
      </>
    ),
    does: "push, turn, hold",
    marked: true,
  },
  "socket fusion": {
    draws: (
      <>
        {socket}
        <Tube b={252} />
        <Both d="M166 48a6 6 0 0 1 10-8Z" style={{ fill: ink }} />
        <Both d="M252 52a6 5 0 0 0 8 8H252Z" style={{ fill: ink }} />
        {push}
      </>
    ),
    does: "heat both, push straight, never turn",
    marked: true,
  },
  thread: {
    draws: (
      <>
        {male}
        <Both d="M180 30H310V56H262V46H180Z" />
        {turn}
      </>
    ),
    does: "start by hand",
    marked: true,
  },
  "washer thread": {
    draws: (
      <>
        {male}
        <Both d="M180 30H310V64H274V46H180Z" />
        <Both d="M262 50H272V64H262Z" style={rubber} />
        {turn}
      </>
    ),
    does: "washer in, hand tight, no tape",
    marked: false,
  },
  "barb and clamp": {
    draws: (
      <>
        {hose}
        <path d="M188 38h14v6M188 116h14v-6M224 38h14v6M224 116h14v-6" fill="none" stroke={ink} strokeWidth={4} />
      </>
    ),
    does: "warm, push to the shoulder",
    marked: true,
  },
  "push barb": { draws: hose, does: "push over all the barbs", marked: true },
  compression: gripping,
  "gripping compression": gripping,
  "repair compression": { draws: nutted(false), does: "to the mark: it seals and does not hold", marked: true },
  "universal compression": {
    draws: (
      <>
        <Tube b={262} r={24} t={10} />
        <Both d="M196 50L214 36V53H196Z" style={rubber} />
        <Both d="M214 30H320V62H286V48H214Z" />
        <Both d="M176 53l6-8l5 8l6-8l4 8Z" style={{ fill: ink }} />
        <Both d="M158 52V20H250V30H210L196 44H174V52Z" />
        {turn}
      </>
    ),
    does: "liner in soft pipe, to the mark, then the nut",
    marked: true,
  },
  "drip compression": {
    draws: (
      <>
        <Tube b={262} r={22} t={7} style={soft} />
        <Both d="M176 54L190 44H300V60H270V55H190Z" />
        {push}
      </>
    ),
    does: "rock it in to the stop",
    marked: true,
  },
  lock: {
    draws: (
      <>
        <Both d="M176 66L232 62V68H320V73H176Z" />
        <Tube b={236} r={22} t={7} style={soft} />
        <Both d="M182 54V38H262V60H250V48H196V54Z" />
        {turn}
      </>
    ),
    does: "over the spigot, then the sleeve back on it",
    marked: true,
  },
  "push-in": {
    draws: (
      <>
        <Tube b={256} />
        <Both d="M176 47V32H310V62H280V48H200Z" />
        <Both d="M186 47l9-7v7Z" style={{ fill: ink }} />
        <Both d="M214 39h10v8h-10Z" style={rubber} />
        {push}
      </>
    ),
    does: "push to the mark, then pull: it must hold",
    marked: true,
  },
  "gasket bell": {
    draws: (
      <>
        <Tube b={240} />
        <path d="M240 48l14 6v6h-14ZM240 106l14-6v-6h-14Z" {...wall} />
        <Both d="M174 44V32H192V24H214V32H262L286 46H320V60H282L258 44H214V36H192V44Z" />
        <Both d="M193 37h20v11h-20Z" style={rubber} />
        {push}
      </>
    ),
    does: "ring in its groove, lubricate, push to the mark",
    marked: true,
  },
  snap: {
    draws: (
      <>
        <path
          d={`M20 52${Array.from({ length: 12 }, (_, i) => `V${i % 2 ? 52 : 42}H${38 + i * 18}`).join("")}V60H20Z`}
          {...soft}
        />
        <path
          d={`M20 102${Array.from({ length: 12 }, (_, i) => `V${i % 2 ? 102 : 112}H${38 + i * 18}`).join("")}V94H20Z`}
          {...soft}
        />
        <Both d="M176 40V28H310V60H260V40H206L200 50L194 40Z" />
        {push}
      </>
    ),
    does: "push until its tabs snap into a groove",
    marked: true,
  },
  "shielded band": {
    draws: (
      <>
        <Tube b={218} />
        <Tube a={222} b={330} />
        <Both d="M172 47V36H268V47Z" style={rubber} />
        <Both d="M178 36V30H262V36Z" />
        <Both d="M186 30V22H200V30ZM240 30V22H254V30Z" style={{ fill: ink }} />
      </>
    ),
    does: "ends to the middle, both bands in turn",
    marked: true,
  },
  union: {
    draws: (
      <>
        <Tube b={196} />
        <Both d="M168 48V34H200V48Z" />
        <Tube a={204} b={330} />
        <Both d="M204 48V36H214V30H262V48Z" />
        <Both d="M199 40h6v8h-6Z" style={rubber} />
        <Both d="M156 46V34H166V22H252V30H206V34H166V46Z" />
        {turn}
      </>
    ),
    does: "clean faces, ring in its groove, hand tight",
    marked: false,
  },
  bulkhead: {
    draws: (
      <>
        <Tube a={60} b={310} r={26} />
        <rect x={182} y={6} width={14} height={44} {...soft} />
        <rect x={182} y={104} width={14} height={44} {...soft} />
        <Both d="M206 51V16H226V51Z" />
        <Both d="M197 51V20H205V51Z" style={rubber} />
        <Both d="M150 51V20H180V51Z" />
        {turn}
        <text x={290} y={30} fontSize={12} fill={water} textAnchor="middle">
          wet side
        </text>
      </>
    ),
    does: "gasket on the wet side, the nut dry",
    marked: false,
  },
  saddle: {
    draws: (
      <>
        <rect x={20} y={84} width={300} height={12} {...wall} />
        <rect x={20} y={132} width={300} height={12} {...wall} />
        <rect x={20} y={97} width={300} height={34} fill="var(--color-water-soft)" />
        <rect x={154} y={82} width={32} height={16} fill="var(--color-water-soft)" />
        <path d="M104 84V72H140V24H154V84ZM236 84V72H200V24H186V84Z" {...wall} />
        <path d="M142 84v-6h12v6ZM186 84v-6h12v6Z" {...rubber} />
        <path d="M112 66v84M228 66v84" stroke={ink} strokeWidth={5} />
        <rect x={155} y={24} width={30} height={58} fill="var(--color-water-soft)" />
      </>
    ),
    does: "seat it, bolts crosswise, drill, burrs out",
    marked: false,
  },
};
