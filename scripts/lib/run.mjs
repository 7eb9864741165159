import { spawn } from 'node:child_process';
import { closeSync } from 'node:fs';
import { GiveUp } from './say.mjs';

/** For tools that read and drop a lot: room for young objects saves them a quarter of their time. */
export const roomy = { NODE_OPTIONS: '--max-semi-space-size=64' };

/**
 * Runs a command to its end; its output is shown, or only where it fails.
 * @param options.niceness from 0 to 19: how far it stands back where others want to compute, too (nice(1))
 */
export function run(command, args, { cwd, env, quiet = false, niceness = 0, input, uid, gid } = {}) {
  return new Promise((resolve, reject) => {
    const [program, ...words] = niceness > 0 ? ['nice', '-n', `${niceness}`, command, ...args] : [command, ...args];
    const child = spawn(program, words, {
      cwd,
      env: { ...process.env, ...env },
      uid,
      gid,
      stdio: [input === undefined ? 'ignore' : 'pipe', quiet ? 'pipe' : 'inherit', quiet ? 'pipe' : 'inherit'],
    });
    let said = '';
    child.stdout?.on('data', (chunk) => (said += chunk));
    child.stderr?.on('data', (chunk) => (said += chunk));
    if (input !== undefined) child.stdin.end(input);
    child.once('error', reject);
    child.once('close', (code) =>
      code === 0
        ? resolve(said)
        : reject(Object.assign(new Error(`${command} ${args.join(' ')} ended with ${code}\n${said}`), { code, said })),
    );
  });
}

/** Runs one of our own programs to its end; what it says last is why it failed. */
export const runOwn = (script, args, options) =>
  run(process.execPath, [script, ...args], { quiet: true, ...options }).catch((error) => {
    throw Object.assign(new GiveUp(error.said?.trim().split('\n').at(-1) || error.message), { code: error.code });
  });

/** Starts one of our own processes and waits until it says that it is ready, or why it can’t be. */
export function startProcess(script, args, { env, name, logFile }) {
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, [script, ...args], {
      env: { ...process.env, ...env },
      stdio: ['ignore', logFile ?? 'ignore', logFile ?? 'inherit', 'ipc'],
    });
    if (logFile !== undefined) child.once('spawn', () => closeSync(logFile));
    const ended = new Promise((end) => {
      child.once('error', (error) => end(error.message));
      child.once('exit', (code, signal) => end(signal === null ? `exit status ${code}` : `killed by ${signal}`));
    });
    void ended.then((why) => reject(new Error(`${name} ended (${why}) before it was ready; its log says why`)));
    child.on('message', (message) => {
      if (message?.failed) reject(Object.assign(new GiveUp(message.failed), { portTaken: message.portTaken === true }));
      if (message?.ready) resolve({ child, ended, ...message, stop: () => stopProcess(child) });
    });
  });
}

const patienceMs = 8000;

function stopProcess(child) {
  return new Promise((resolve) => {
    if (child.exitCode !== null || child.signalCode !== null) return resolve();
    const timer = setTimeout(() => child.kill('SIGKILL'), patienceMs);
    child.once('exit', () => {
      clearTimeout(timer);
      resolve();
    });
    child.kill('SIGTERM');
  });
}
