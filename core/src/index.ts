/**
 * The public surface of the core: all that the interface, the command line, the benchmarks and the interface tests import.
 * Parts are data and are loaded one by one: see `parts/`.
 */
export { failed, type Fault, type Result, succeeded } from './result/result.ts';
export { faultOf } from './result/fault.ts';
export { FILE_LIMIT } from './result/file-limit.ts';
export { exact, exactText } from './quantity/exact.ts';
export { parseQuantity } from './quantity/parse.ts';
export {
  binary,
  hex,
  printCount,
  printHz,
  printNumber,
  printPercent,
  printPpm,
  printSeconds,
  printUnit,
} from './quantity/print.ts';
export { fetchPart, fetchParts, fetchTrust, partsNamedIn, shippedParts } from './part/fetch.ts';
export type { Trust } from './part/trust.ts';
export { answers, featuresOf } from './part/features.ts';
export { capturePins, findTimer, timerPins } from './part/find.ts';
export { type ClockNode, type Part } from './part/types.ts';
export { readPart, type ReadPart, writePart } from './timer/part-file.ts';
export { ClockError, clockOf, clockPath, clockPhrase, type ClockSetting } from './clock/path.ts';
export { clockSettingsFor } from './clock/search.ts';
export { checkedSignal, editToken, tokenSeen, withPin } from './signal/edit.ts';
export { signalSetTo } from './signal/set-to.ts';
export { allKinds, type Kind, kindOf, type Piece, registerKind } from './signal/kinds/index.ts';
export { requirementOf } from './signal/requirement-of.ts';
export { sentenceOf, sentenceText, targetText } from './signal/sentence.ts';
export { parsePhase, parseSequence, phaseText, sequenceText } from './signal/sequence-text.ts';
export { firstEdgeText, oppositeText, parseFirstEdge, parseOpposite } from './signal/timing-text.ts';
export { resolvedSteps } from './signal/sequence.ts';
export { type KindAndTarget } from './signal/signal.ts';
export { readWish, type WishResult } from './signal/wish/read.ts';
export { type Stretch } from './signal/wish/stretches.ts';
export {
  adjust,
  type AdjustedField,
  allDrives,
  type Cause,
  clockNode,
  type Drive,
  driveById,
  driveOf,
  isInput,
  isOutput,
  isSoftware,
  isToggled,
  meansOf,
  numbersText,
  outcomeUnder,
  placeText,
  registerDrive,
} from './timer/drives/index.ts';
export { type RegisterWrite } from './timer/fields.ts';
export { type Effect } from './timer/outcome.ts';
export {
  channelIdOf,
  type DriveId,
  hasTimer,
  type OutputSetting,
  sameSetting,
  type Setting,
  timerIdOf,
} from './timer/setting.ts';
export {
  MOST_TIMES,
  type CpuLoad,
  type Poll,
  type Cycles,
  type HandlerFacts,
  type PlanTask,
  type TaskArrivals,
} from './plan/cpu-load.ts';
export { arrivalsText, cyclesText, parseArrivals, parseCycles } from './plan/cpu-text.ts';
export { cyclesInListing, type ListedCycles } from './machine/listing.ts';
export { avrSet } from './machine/avr-cycles.ts';
export { thumbSet } from './machine/thumb-cycles.ts';
export { handlerSymbol } from './codegen/handlers.ts';
export { type CpuRun } from './machine/record.ts';
export { checkPlan, planFault, readPlan, type ReadPlan } from './plan/check-plan.ts';
export {
  copiedSignal,
  freeId,
  freeName,
  movedSignal,
  replacedSignal,
  withoutSignal,
  withHandlerCycles,
  withSettings,
  withoutKey,
} from './plan/edit.ts';
export { type Clash, mergePlans } from './plan/merge.ts';
export { pinName, type PinNames, readPinNames, writePinNames } from './plan/pin-names.ts';
export { firstKnob, firstReadings, isHeard, knobQuantities, loadsFor } from './plan/starters.ts';
export { needsIn, signalsOfNeeds } from './plan/needs.ts';
export { easedSignal } from './plan/ease.ts';
export { type LineReading, readWishes, type WishLine, wishProblems } from './plan/wishes.ts';
export { type Plan, planFileName, type PlanSignal } from './plan/plan.ts';
export { writePlan } from './plan/write-plan.ts';
export { PLAN_VERSION, upgradePlan } from './plan/versions.ts';
export { type Capture, CaptureError } from './wave/capture.ts';
export { envelope, meanBetween, reachOf } from './wave/samples.ts';
export type { EdgeSource, Level } from './wave/edge-source.ts';
export { lanePieces } from './wave/merge.ts';
export { measureBetween, nextPeriod, nextPulse, waveformSource, wireSource } from './wave/source.ts';
export { passTicks } from './wave/sequence-waveform.ts';
export { soundOf, soundOfEdges } from './wave/sound.ts';
export { histogramOf } from './wave/statistics.ts';
export { waveformEdgeList } from './wave/stream.ts';
export { type Threshold, thresholded } from './wave/threshold.ts';
export { firstEdge, waveformOf } from './wave/waveform.ts';
export { type Load, type LoadKind, loadKinds, type LoadType, registerLoad } from './load/index.ts';
export { fieldText, parseField } from './load/text.ts';
export { type ChoiceField, type NumberField, type LoadPicture, type LoadReport } from './load/model.ts';
export { strobeView } from './load/strobed-disc.ts';
export {
  deviations,
  MOST_READINGS,
  type ReadingQuantity,
  type Reading,
  type Readings,
  readRange,
  seenAt,
  seenText,
  setFor,
  setText,
} from './readings/readings.ts';
export { parseReadings, parseSeen, parseSet } from './readings/table.ts';
export { highestReading, type Knob, type KnobCurve, type KnobQuantity } from './knob/knob.ts';
export { type Check, type Verdict } from './check/check.ts';
export { type Candidate } from './fit/candidate.ts';
export { type Refusal } from './fit/explain/refusal.ts';
export { fitRequirement } from './fit/fit.ts';
export { type Landscape, type Point } from './fit/landscape.ts';
export { closestFirst, rankedBy, type Ranking, RANKINGS } from './fit/rank.ts';
export { type SpanReport } from './fit/span.ts';
export { type Step, stepTarget } from './fit/step.ts';
export { assign, type Assignment } from './assign/assign.ts';
export { stepBudget } from './assign/step-budget.ts';
export { type Request } from './assign/request.ts';
export { allSlips, type Slip } from './slips/catalogue.ts';
export { CodeError, type CodeFile } from './codegen/c-files.ts';
export { explainFigures, type FigureExplanation, type FigureId } from './evaluate/figures.ts';
export { bestSetting, renewedSetting, signalFit } from './evaluate/choose.ts';
export { type EditedSignal, editSignal, type SignalEdit } from './evaluate/edit-signal.ts';
export { noStartUpCode, planCode, type PlanCode, type PlanCodeOptions } from './evaluate/code.ts';
export type { CodeChoices } from './plan/plan.ts';
export { planWorkspace, type KeptBack, type Workspace } from './evaluate/workspace.ts';
export { shiftsText, type RegisterField, type RegisterRow } from './evaluate/register-rows.ts';
export type { LineMark } from './evaluate/code-marks.ts';
export type { RegisterStyle } from './part/register-names.ts';
export {
  type EvaluatedSignal,
  evaluatePlan,
  failureText,
  type Evaluation,
  type Failure,
  settingsOf,
  worstVerdict,
} from './evaluate/evaluate.ts';
export {
  type Deadline,
  EVALUATED,
  type InterruptOptions,
  type InterruptReport,
  type InterruptRow,
  simulatePlan,
} from './evaluate/interrupts.ts';
export { evaluationMemory, type EvaluationMemory } from './evaluate/memory.ts';
export { planCpu, type PlanCpu } from './evaluate/cpu-model.ts';
export { dutyRange, type DutyRange } from './evaluate/duty-range.ts';
export { type LedString, ledStringWays, type StringWay, stringWaysOf } from './evaluate/led-string.ts';
export { type PollRow } from './evaluate/polls.ts';
export { type CycleEdges, type RealEdges, type EdgeSpread } from './evaluate/real-edges.ts';
export { type KnobReport, knobReport, settingAtReading } from './evaluate/knob.ts';
export { knobText } from './evaluate/knob-mapping.ts';
export { type Motion, triedLoad } from './evaluate/load.ts';
export { oppositeId } from './evaluate/opposite-id.ts';
export { evaluateSetting, type SettingPlace, type SignalEvaluation } from './evaluate/signal.ts';
export { signalSurroundings, type Surroundings } from './evaluate/surroundings.ts';
export { tracedLanes } from './evaluate/traced.ts';
export { planWaveforms, type SignalWaveform } from './evaluate/waveforms.ts';
export { assignPlan, type PlanAssignment } from './resolve/assign-plan.ts';
export { type FileChange, type PlanChange, planChange } from './resolve/change.ts';
export { clocksOf, type PartTrial, planOn, searchClocks, tryPart } from './resolve/compare-parts.ts';
export { type Fix, fixesFor } from './resolve/conflict-fixes.ts';
export { fixesForInfeasible, type TriedFix } from './resolve/fixes.ts';
export { type Infeasibility } from './resolve/infeasible.ts';
export { shareTick, slowSharers, type TickProposal, tickSharers } from './resolve/share-tick.ts';
export { compareCapture, type Comparison, type WireMap } from './capture/compare.ts';
export { type DecodedForSignal, decodeForSignal } from './decode/decode-plan.ts';
export { decodeText, type Wanted } from './decode/decode.ts';
export { derivationText } from './report/derivation.ts';
export { reportHtml } from './report/html.ts';
export { reportMarkdown } from './report/markdown.ts';
export { planReport } from './report/sections.ts';
export { planDiff, type PlanDiff } from './resolve/plan-diff.ts';
export { decodedSignals } from './decode/decoded-signals.ts';
export { type ArchivedPlan, isArchive, planInArchive, readArchive, textFile } from './io/archive.ts';
export { planArchive } from './io/plan-archive.ts';
export { type Progress, readCapture } from './io/capture-file.ts';
export { writeCsv } from './io/csv-write.ts';
export { vcdReader } from './io/vcd-read.ts';
export { writeVcd } from './io/vcd-write.ts';
export { writeWav } from './io/wav-write.ts';
export { xmlText } from './quantity/xml.ts';
