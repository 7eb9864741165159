import { parseArgs } from 'node:util';
import { ClassicMachine } from './classic/classic-machine.js';
import { EnforcedSettings, FolderOfSettings } from './classic/enforced-settings.js';
import { lehrItems } from './classic/lehr-items.js';
import { settingsText, signedInAccess, signedInLaunch } from './classic/settings-text.js';

/** One classic stand-in, alone: `node stand-ins/dist/classic-server.js --address 127.0.0.1 --port 10135 --user NAME --password-env VAR`. */
const { values } = parseArgs({
  options: {
    address: { type: 'string', default: '127.0.0.1' },
    port: { type: 'string', default: '10135' },
    user: { type: 'string' },
    'password-env': { type: 'string' },
    /** A folder of exports that it keeps to; absent: whoever signs in may do everything. */
    settings: { type: 'string' },
  },
});

function giveUp(message: string): never {
  process.stderr.write(`${message}\n`);
  process.exit(2);
}

const { address, user } = values;
const port = Number(values.port);
if (!Number.isInteger(port) || port < 0 || port > 65_535) giveUp(`“${values.port}” is no port.`);
if (!address.startsWith('127.')) giveUp(`“${address}” is no loopback address: a stand-in serves nobody else.`);
const variable = values['password-env'];
const password = variable === undefined ? undefined : process.env[variable];
if (user !== undefined && password === undefined)
  giveUp('Say by --password-env which environment variable holds the password.');

const clsid = '5d8f0b52-3c1e-4f6a-9a70-2b6c1de80a11';
const progId = 'Marrowby.LehrData.1';
const own = [
  settingsText({
    applications: [
      {
        appId: '5d8f0b52-3c1e-4f6a-9a70-2b6c1de80a10',
        name: 'Lehr data',
        clsid,
        progId,
        launch: signedInLaunch,
        access: signedInAccess,
      },
    ],
  }),
];
const { settings: folder } = values;
const kept = folder === undefined ? null : new FolderOfSettings(folder);
const usual = EnforcedSettings.of(own);
const machine = await ClassicMachine.start({
  name: 'LEHR-DATA',
  address,
  mapperPort: port,
  hosts: [address],
  accounts: user === undefined ? [] : [{ user, password: password ?? '', rid: 1001, groups: [] }],
  machineSid: 'S-1-5-21-41-41-41',
  settings: () => kept?.now() ?? usual,
  programs: [
    {
      clsid,
      vendor: 'Marrowby Glass, made up',
      version: { major: 1, minor: 2, build: 3 },
      items: lehrItems,
      hasItemIo: true,
      ...(user === undefined ? {} : { runsAs: { user, domain: '', password: password ?? '' } }),
    },
  ],
}).catch((error: unknown) =>
  giveUp(`Port ${port} of ${address} can’t be had: ${error instanceof Error ? error.message : String(error)}`),
);

process.stdout.write(`${JSON.stringify({ progId, clsid, address, port: machine.mapperPort })}\n`);

const stop = () => void machine.stop().then(() => process.exit(0));
process.on('SIGINT', stop);
process.on('SIGTERM', stop);
