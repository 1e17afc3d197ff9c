import createClient from 'openapi-fetch';
import { maker } from './maker';
import type { components, paths } from './schema.gen';

type S = components['schemas'];
export type Condition = S['Condition'];
export type Answer = S['Answer'];
export type Code = S['Code'];
export type Edit = S['Edit'];
export type SetupEdit = S['SetupEdit'];
export type Effect = S['Effect'];
/** An edit of one kind. */
export type EditOf<K extends Edit['kind']> = Extract<Edit, { kind: K }>;
export type History = S['History'];
export type Field = S['Field'];
export type FrameLine = S['FrameLine'];
export type Guess = S['Guess'];
export type Question = S['QuestionState'];
export type Study = S['StudyInfo'];
export type Upload = S['Upload'];
export type Term = S['Term'];
export type Chart = S['Chart'];
export type ChartRow = S['Row'];
export type ChartColumn = S['Column'];
export type ChartCell = S['Cell'];
export type KeptChart = S['KeptChart'];
export type Findings = S['Findings'];
export type Finding = Omit<S['FindingHead'], 'also'>;
export type HouseStyle = S['Style'];
export type ReportInfo = S['ReportInfo'];
export type ReportState = S['ReportState'];
export type ReportChange = S['ReportChange'];
export type Document = S['Document'];
export type Section = S['Section'];
export type SectionOf<K extends Section['kind']> = Extract<Section, { kind: K }>;
export type Block = S['Block'];
export type BlockOf<K extends Block['kind']> = Extract<Block, { kind: K }>;
/** What a chart is made of, and how it is drawn. */
export type Design = S['Design'];
export type DesignOf<K extends Design['kind']> = Extract<Design, { kind: K }>;
/** The figures of a chart: of the same kind as its design. */
export type Figures = S['ChartFigures'];
export type FiguresOf<K extends Figures['kind']> = Extract<Figures, { kind: K }>;
export type Method = S['Method'];
export type Quote = S['Quote'];
export type Means = S['Means'];
export type Flow = S['Flow'];
export type Together = S['Together'];
export type SideBySide = S['SideBySide'];
export type MeanRow = S['MeanRow'];
export type Category = S['Category'];
/** What the coded data may be asked for as. */
export type CodedQuery = NonNullable<paths['/api/v1/questions/{question}/coded']['get']['parameters']['query']>;
export type WrittenRule = S['Written'];
export type Problem = S['Problem'];
export type Role = Guess['role'];
export type Column = S['Profile'];
export type Spec = S['Spec'];
export type Recipe = S['Recipe'];
export type Preview = S['Preview'];
export type Notes = S['Notes'];
export type Derived = S['Derived'];
export type Made = S['MadeVariable'];
export type Further = S['Further'];
export type Division = Omit<S['Split'], 'column'>;
export type Proof = S['Proof'];
export type Checks = S['Checks'];
export type Trying = S['Trying'];
export type Step = S['StepFigure'];
export type TermTable = S['TermTable'];
export type Branch = S['Branch'];
export type Suggestion = S['Suggestion'];
export type ValueTable = S['Values'];
export type Moving = S['Rising'];
export type HandDecisions = S['Decisions'];
export type SampleInfo = S['SampleInfo'];
export type SampleAgreement = S['SampleAgreement'];
export type BlindPage = S['BlindPage'];
export type Queued = S['Queued'];
export type Likely = S['Likely'];
export type AnswerGroup = S['AnswerGroup'];
export type Suggester = S['Suggester'];
export type TestedRows = S['TestedRows'];
export type Comparison = S['Comparison'];
export type TermApart = S['TermApart'];
export type Corpus = S['Corpus'];
export type Network = S['Network'];
export type Timeline = S['Timeline'];
export type LexiconState = S['LexiconState'];
export type RuleQuery = S['RuleQuery'];
export type Induced = S['Induced'];
export type Checked = S['Checked'];
export type RulePreview = S['RulePreview'];
export type Proposal = S['Proposal'];
export type Health = S['Health'];
export type Why = S['Why'];
export type Between = S['Between'];
export type ReadFrame = S['ReadFrame'];
export type LiveEvent = S['Event'];
export type Session = S['Session'];
export type Account = S['Account'];
export type Sharing = S['Sharing'];
export type Entry = S['Entry'];

export const api = createClient<paths>({ baseUrl: '/' });
api.use({
  onRequest: ({ request }) => {
    if (maker()) request.headers.set('Made-By', encodeURIComponent(maker()));
  },
});

/** What went wrong, in the server's words. */
export class Refusal extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

type Reply<T> = { data?: T; error?: unknown; response: Response };

/** Gives a reply's data, or throws what the server said. */
export async function take<T>(call: Promise<Reply<T>>): Promise<T> {
  let reply: Reply<T>;
  try {
    reply = await call;
  } catch (e) {
    if (e instanceof DOMException && e.name === 'AbortError') throw e;
    throw new Refusal(
      'The server can’t be reached. Nothing you kept is lost; it will be here when the server runs again.',
      0,
    );
  }
  if (!reply.response.ok) {
    const problem = reply.error as { detail?: string; errors?: { message?: string }[] } | undefined;
    const more = problem?.errors?.map((e) => e.message).join('; ');
    throw new Refusal(
      [problem?.detail ?? reply.response.statusText, more].filter(Boolean).join(': '),
      reply.response.status,
    );
  }
  return reply.data as T;
}
