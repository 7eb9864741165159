import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import type { GatewayConfiguration } from '@loyal-hinge/contract/line';
import { ClassicFace } from './classic/face.js';
import { ClassicSource } from './classic/source.js';
import { Gateway } from './gateway.js';
import type { FaceWrite, SourceSettings, Tell } from './gateway.js';
import { TunnelSource } from './tunnel-source.js';
import { UaFace } from './ua/face.js';
import type { FaceHistory } from './ua/history.js';
import { trustAnew, uaIdentity } from './ua/identity.js';
import { silenceLibrary } from './ua/quiet.js';
import { UaSource } from './ua/source.js';

export interface RunningGateway {
  readonly gateway: Gateway;
  /** The ports of its faces, in their order. */
  readonly ports: readonly number[];
  /**
   * Goes over to another configuration: other sources, places, relays, users and trust.
   * @returns false where its own certificate, its name or where its faces listen differ: then it has to be started anew
   */
  change(configuration: GatewayConfiguration): Promise<boolean>;
  stop(): Promise<void>;
}

/**
 * Starts a gateway with its sources and faces.
 * @param folder from which the paths of its files are taken
 * @throws Error with a sentence for people where a file can’t be read or a port is taken
 */
export async function startGateway(
  configuration: GatewayConfiguration,
  folder: string,
  tell: Tell,
): Promise<RunningGateway> {
  silenceLibrary();
  const identity = await uaIdentity(configuration, folder);
  const begunWith = await frameOf(configuration, folder);
  const gateway = new Gateway(
    configuration,
    (settings, wanted) => {
      if (settings.kind === 'tunnel') return new TunnelSource(settings, wanted);
      const from = { ...settings, ...inFolder(settings, folder) };
      return from.kind === 'ua' ? new UaSource(from, identity, wanted) : new ClassicSource(from, wanted);
    },
    tell,
  );
  const faces: (UaFace | ClassicFace)[] = [];
  const write: FaceWrite = (...given) => gateway.write(...given);
  const history: FaceHistory = (...given) => gateway.history(...given);
  try {
    for (const face of configuration.faces)
      faces.push(
        face.kind === 'ua'
          ? await UaFace.start(face, configuration.name, identity, { write, history })
          : await ClassicFace.start(classicIn(face, folder), configuration.name, write),
      );
  } catch (error) {
    await Promise.all(faces.map((face) => face.stop()));
    const face = configuration.faces[faces.length];
    const port = face?.kind === 'ua' ? face.port : face?.mapperPort;
    throw new Error(
      `It can’t listen at ${face?.address ?? ''} port ${port ?? 0}: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
  gateway.start(faces);
  let passwords = await passwordMarks(configuration, folder);
  return {
    gateway,
    ports: faces.map(({ port }) => port),
    change: async (next) => {
      if ((await frameOf(next, folder)) !== begunWith) return false;
      await trustAnew(identity, next, folder);
      next.faces.forEach((face, index) => {
        const running = faces[index];
        if (face.kind === 'ua' && running instanceof UaFace) running.letIn(face.users);
        if (face.kind === 'classic' && running instanceof ClassicFace) running.letIn(classicIn(face, folder).users);
      });
      const before = passwords;
      passwords = await passwordMarks(next, folder);
      gateway.change(
        next,
        new Set([...passwords].flatMap(([name, mark]) => (before.get(name) === mark ? [] : [name]))),
      );
      return true;
    },
    stop: () => gateway.stop(),
  };
}

/** Marks of the sources’ passwords, by their names: another password has another one. */
async function passwordMarks({ sources }: GatewayConfiguration, folder: string): Promise<ReadonlyMap<string, string>> {
  const marks = new Map<string, string>();
  for (const source of sources) {
    if (source.kind === 'tunnel' || !source.user) continue;
    const password = await readFile(resolve(folder, source.user.passwordFile)).catch(() => '');
    marks.set(source.name, createHash('sha256').update(password).digest('hex'));
  }
  return marks;
}

/** A source’s password file, wherever the configuration lies. */
type SignsIn = Exclude<SourceSettings, { kind: 'tunnel' }>;
const inFolder = ({ user }: SignsIn, folder: string): Pick<SignsIn, 'user'> =>
  user ? { user: { ...user, passwordFile: resolve(folder, user.passwordFile) } } : {};

type ClassicSettings = Extract<GatewayConfiguration['faces'][number], { kind: 'classic' }>;
const classicIn = (face: ClassicSettings, folder: string): ClassicSettings => ({
  ...face,
  users: face.users.map((user) => ({ ...user, passwordFile: resolve(folder, user.passwordFile) })),
});

/** A mark of what can’t change while a gateway runs: its name, its own certificate, and where and how its faces listen. */
async function frameOf(
  { name, faces, certificateFile, keyFile }: GatewayConfiguration,
  folder: string,
): Promise<string> {
  const mark = createHash('sha256').update(JSON.stringify([name, faces.map(({ users: _, ...rest }) => rest)]));
  for (const file of [certificateFile, keyFile]) mark.update(await readFile(resolve(folder, file)).catch(() => ''));
  return mark.digest('hex');
}
