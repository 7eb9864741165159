import { spawn } from 'node:child_process';

/** Runs a command to its end; its output is shown, or only where it fails. */
export function run(command, args, { cwd, env, quiet = false, input, uid, gid } = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, {
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

/** Starts one of our own processes and waits until it says that it is ready. */
export function startProcess(script, args, { env, name, logFile }) {
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, [script, ...args], {
      env: { ...process.env, ...env },
      stdio: ['ignore', logFile ?? 'ignore', logFile ?? 'inherit', 'ipc'],
    });
    child.once('error', reject);
    child.once('exit', (code) => reject(new Error(`${name} ended with ${code} before it was ready`)));
    child.on('message', (message) => {
      if (message?.ready) resolve({ child, ...message, stop: () => stopProcess(child) });
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
