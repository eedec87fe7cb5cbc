import type { components, paths } from "./schema";

type Schemas = components["schemas"];

/** What stands at a point: one of the kinds that core declares, told apart by `kind`. */
export type What = Schemas["Point"]["what"];
/** A head, which throws over an arc. */
export type Head = Extract<What, { arc?: number }>;
export type Point = Required<Omit<Schemas["Point"], "what">> & { what: What };
export type RunEnd = Required<Schemas["RunEnd"]>;
export type Run = Required<Omit<Schemas["Run"], "a" | "b">> & { a: RunEnd; b: RunEnd };
export type Leaving = Required<Omit<Schemas["Leaving"], "a" | "b">> & { a: RunEnd; b: RunEnd | null };
export type ChangeoverAct = Schemas["ChangeoverAct"];
export type Changeover = Schemas["Changeover"];
export type FaultFinding = Schemas["FaultFinding"];
export type Diagnosis = Schemas["Diagnosis"];
export type Explanation = Schemas["Explanation"];
export type NextLook = Schemas["NextLook"];
export type PracticeGround = Schemas["PracticeGround"];
export type ExerciseHead = Schemas["ExerciseHead"];
export type ExerciseView = Schemas["ExerciseView"];
export type Attempt = Required<Schemas["Attempt"]>;
export type AttemptView = Omit<Schemas["AttemptView"], "attempt"> & { attempt: Attempt };
export type Outline = Schemas["Outline"];
export type RehearsedStep = Schemas["RehearsedStep"];
export type Scenario = Required<Schemas["Scenario"]>;
export type Plan = Required<Omit<Schemas["Plan"], "points" | "runs" | "scenarios" | "leaving">> & {
  leaving: Leaving[];
  points: Point[];
  runs: Run[];
  scenarios: Scenario[];
};
/** A thing of the crew's own, as their book has it. */
export type OwnThing = Omit<Schemas["OwnThing"], "what" | "ports"> & { what: What; ports: Record<string, string> };
export type Book = Omit<Schemas["Book"], "things" | "assemblies"> & { things: OwnThing[]; assemblies: Plan[] };
export type Existing = Schemas["Existing"];
export type OwnPort = Schemas["OwnPort"];
export type Conditions = Schemas["Conditions"];
export type JobView = Omit<Schemas["JobView"], "plan"> & { plan: Plan };
export type Saved = Schemas["Saved"];
export type Change = Schemas["Change"];
export type AtAGlance = Schemas["AtAGlance"];
export type JobSummary = Schemas["JobSummary"];
export type RevisionSummary = Schemas["RevisionSummary"];
export type LeftOut = Schemas["LeftOut"];
export type StageAnswer = Schemas["StageAnswer"];
export type Stage = StageAnswer["stage"];
export type Standing = Schemas["Standing"];
export type Progress = Schemas["Progress"];
export type Market = NonNullable<Conditions["market"]>;
export type Flow = Schemas["Flow"];
export type Choice = Schemas["Choice"];
export type DrainRun = Schemas["DrainRun"];
export type Line = Schemas["Line"];
export type Joint = Schemas["Joint"];
export type Part = Schemas["Part"];
export type Piece = Schemas["Piece"];
export type Nest = Schemas["Nest"];
export type Section = Schemas["Section"];
export type Readiness = Schemas["Readiness"];
export type JointState = Schemas["JointState"];
export type StateName = JointState["state"];
export type Gate = Schemas["Gate"];
/** An event as the page makes it: what it leaves out, the server takes as not said. */
export type Said = Pick<Required<Schemas["Said"]>, "id" | "kind" | "at" | "by" | "joints" | "override" | "note"> &
  Partial<Schemas["Said"]>;
export type Answered = Schemas["Answered"];
export type Procedure = Schemas["Procedure"];
export type Points = Schemas["Points"];
export type Shop = Schemas["Shop"];
export type ShopPart = Schemas["ShopPart"];
export type Instead = Schemas["Instead"];
export type OtherWay = Schemas["OtherWay"];
export type AsLaid = Schemas["AsLaid"];
export type Reminder = Schemas["Reminder"];
export type Photo = Schemas["Photo"];
export type Crew = Schemas["Crew"];
export type Member = Schemas["Member"];
export type Here = Schemas["Here"];
export type Handed = NonNullable<Readiness["handed"]>;
export type Procedures = Schemas["Procedures"];
export type Working = Schemas["Working"];
export type ProfilePoint = Schemas["ProfilePoint"];
export type Reference = Schemas["Reference"];
export type KindView = Schemas["KindView"];
export type FieldView = Schemas["FieldView"];
export type PortView = Schemas["PortView"];
export type Beginning = Schemas["Beginning"];
export type Befalls = Schemas["Befalls"];
export type Trace = Schemas["Trace"];
export type DrawnWater = Schemas["DrawnWater"];
export type Coverage = Schemas["Coverage"];
export type Emission = Schemas["Emission"];
export type Lines = Schemas["Lines"];
export type OutletFlow = Schemas["OutletFlow"];
export type Zone = Required<Schemas["Zone"]>;
export type Zoned = Schemas["Zoned"];
export type Schedule = Schemas["Schedule"];
export type Series = Schemas["Series"];
export type Quantity = Schemas["Quantity"];
export type Unit = Schemas["Unit"];
export type Caution = Schemas["Caution"];
export type PlanProblem = Schemas["Problem"];
export type ProblemDocument = Schemas["ProblemDocument"];
export type UnitSystem = Plan["units"];
export type PipeOrEnd = Schemas["PipeOrEnd"];
export type Ways = Schemas["Ways"];
export type Body = Schemas["FittingBody"];
export type Way = Schemas["Way"];
export type WrongWay = Schemas["WrongWay"];
export type EndView = Schemas["EndView"];
export type PartView = Schemas["PartView"];
export type JoinIn = Schemas["JoinIn"];
export type Identified = Schemas["Identified"];
export type IdentifyIn = Schemas["IdentifyIn"];
export type CaliperReading = Schemas["CaliperReading"];
export type BranchWay = Schemas["BranchWay"];
export type Figured = Schemas["Figured"];
export type NodeView = Schemas["NodeView"];
export type BillRow = Schemas["BillRow"];
export type DrainMaterial = Schemas["DrainMaterial"];
export type Comparison = Schemas["Comparison"];
export type WhatIf = Schemas["WhatIf"];
export type Operating = Schemas["Operating"];
export type LineAnswer = Schemas["LineAnswer"];
export type CutAnswer = Schemas["CutAnswer"];
export type CutIn = Schemas["CutIn"];
export type EndMark = Schemas["EndMark"];
export type Taker = Schemas["Taker"];
export type WaitIn = Schemas["WaitIn"];
export type Waits = Schemas["Waits"];
export type Mending = Schemas["Mending"];
export type RepairIn = Schemas["RepairIn"];
export type LineIn = Schemas["LineIn"];
export type DrainRow = Schemas["DrainRow"];
export type FrictionTable = Schemas["FrictionTable"];
export type WellIn = Schemas["WellIn"];
export type SupplyCurve = Schemas["SupplyCurve"];
export type SupplyIn = Schemas["SupplyIn"];
export type DropPipes = Schemas["DropPipes"];
export type FusedIn = Schemas["FusedIn"];
export type FusedJoint = Schemas["FusedJoint"];
export type Reading = Schemas["Reading"];
export type Judged = Schemas["Judged"];
export type HoldPlan = Schemas["HoldPlan"];
export type FlushPlan = Schemas["FlushPlan"];
export type ZoneView = Schemas["ZoneView"];
export type Clock = Schemas["Clock"];
export type Expected = Schemas["Expected"];
export type Spoiled = Schemas["Spoiled"];
export type Paths = paths;
export type TwoShops = Schemas["TwoShops"];
export type Turned = Schemas["Turned"];
/** What is done to several things at once. */
export type GroupAct =
  | "move"
  | "repeat"
  | "turn"
  | "mirror"
  | "give"
  | "take-away"
  | "fill"
  | "bed"
  | "ring"
  | "nozzle"
  | "drip-head"
  | "jet-ring"
  | "room"
  | "new-service"
  | "loop"
  | "set-down";
