#!/usr/bin/env python3
"""
A firewall of the kernel's own in a network of its own, for tests: rules are loaded into it, packets are sent into it by raw
sockets, and what comes out of it is told. One JSON object a line in, one a line out:

  {"load": {"nft": TEXT} | {"iptables": TEXT} | {"ip6tables": TEXT}}   -> {"loaded": true, "nft": TEXT, "json": TEXT, "iptables": TEXT, ...}
  {"packets": [{"hook", "in", "out", "source", "destination", "protocol", "sourcePort", "destinationPort", "state"}]}
      -> {"next": [the same of each connection's next packet, or null], "seen": [{"verdict": "accept"|"drop"|"reject", "place"?: "inside" or the interface, "destination"?, "destinationPort"?}]}

Needs root. Interfaces of the firewall: lan0 (10.1/16, fd01::/64), lan1 (10.2/16, fd02::/64), wan0 (10.3/16, fd03::/64).
Nothing leaves: both ends of every line are here.
"""
import ctypes, ipaddress, json, os, select, socket, struct, subprocess, sys, time

CLONE_NEWNET = 0x40000000
libc = ctypes.CDLL(None, use_errno=True)
names = ['lan0', 'lan1', 'wan0']

def enter(handle):
    if libc.setns(handle, CLONE_NEWNET) != 0:
        raise OSError(ctypes.get_errno(), 'setns')

def new_network():
    if libc.unshare(CLONE_NEWNET) != 0:
        raise OSError(ctypes.get_errno(), 'unshare')
    return os.open('/proc/self/ns/net', os.O_RDONLY)

def run(*words, text=None):
    done = subprocess.run(words, input=text, capture_output=True, text=True)
    if done.returncode != 0:
        raise RuntimeError(' '.join(words[:4]) + ': ' + done.stderr.strip()[:20000])
    return done.stdout

def setting(path, value):
    try:
        with open('/proc/sys/net/' + path, 'w') as file:
            file.write(value)
    except OSError:
        pass

home = os.open('/proc/self/ns/net', os.O_RDONLY)
firewall = new_network()
run('ip', 'link', 'set', 'lo', 'up')
holder = subprocess.Popen(['sleep', 'infinity'])
world = new_network()
run('ip', 'link', 'set', 'lo', 'up')
lines = {}
for index, name in enumerate(names):
    far = 'far%d' % index
    run('ip', 'link', 'add', far, 'address', '02:00:00:00:01:%02x' % index, 'type', 'veth', 'peer', 'name', name,
        'address', '02:00:00:00:00:%02x' % index, 'netns', str(holder.pid))
    setting('ipv6/conf/%s/disable_ipv6' % far, '1')
    run('ip', 'link', 'set', far, 'up')
    line = socket.socket(socket.AF_PACKET, socket.SOCK_RAW, socket.htons(3))
    line.bind((far, 0))
    line.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4 << 20)
    line.setblocking(False)
    lines[name] = line

enter(firewall)
setting('ipv4/ip_forward', '1')
setting('ipv6/conf/all/forwarding', '1')
for key, value in (('ipv4/icmp_ratelimit', '0'), ('ipv4/icmp_msgs_per_sec', '1000000'), ('ipv4/icmp_msgs_burst', '1000000'), ('ipv6/icmp/ratelimit', '0'),
                   ('ipv4/conf/all/rp_filter', '0'), ('ipv4/conf/default/rp_filter', '0'), ('ipv6/icmp/ratemask', ''),
                   ('netfilter/nf_conntrack_tcp_loose', '1'), ('netfilter/nf_conntrack_tcp_be_liberal', '1'), ('netfilter/nf_conntrack_checksum', '0')):
    setting(key, value)
for index, name in enumerate(names):
    setting('ipv4/conf/%s/rp_filter' % name, '0')
    setting('ipv6/conf/%s/accept_dad' % name, '0')
    setting('ipv6/conf/%s/dad_transmits' % name, '0')
    run('ip', 'link', 'set', name, 'up')
    run('ip', 'addr', 'add', '10.%d.0.1/32' % (index + 1), 'dev', name)
    run('ip', '-6', 'addr', 'add', 'fd0%d::1/128' % (index + 1), 'dev', name, 'nodad')
    far = '02:00:00:00:01:%02x' % index
    run('ip', 'neigh', 'add', '10.%d.255.254' % (index + 1), 'lladdr', far, 'dev', name, 'nud', 'permanent')
    run('ip', 'route', 'add', '10.%d.0.0/16' % (index + 1), 'via', '10.%d.255.254' % (index + 1), 'dev', name, 'onlink')
    run('ip', '-6', 'neigh', 'add', 'fd0%d::ffff' % (index + 1), 'lladdr', far, 'dev', name, 'nud', 'permanent')
    run('ip', '-6', 'route', 'add', 'fd0%d::/64' % (index + 1), 'via', 'fd0%d::ffff' % (index + 1), 'dev', name, 'onlink')
inside = []
for family, protocols in ((socket.AF_INET, (6, 17, 1, 132)), (socket.AF_INET6, (6, 17, 58))):
    for number in protocols:
        raw = socket.socket(family, socket.SOCK_RAW, number)
        raw.setblocking(False)
        raw.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4 << 20)
        inside.append((raw, family, number))
sender = socket.socket(socket.AF_INET, socket.SOCK_RAW, socket.IPPROTO_RAW)
sender6 = socket.socket(socket.AF_INET6, socket.SOCK_RAW, socket.IPPROTO_RAW)

def checksum(data):
    if len(data) % 2:
        data += b'\0'
    total = sum(struct.unpack('!%dH' % (len(data) // 2), data))
    while total >> 16:
        total = (total & 0xffff) + (total >> 16)
    return ~total & 0xffff

def ip_packet(source, destination, number, body, mark):
    four = ':' not in source
    a, b = (ipaddress.ip_address(x).packed for x in (source, destination))
    pseudo = a + b + (struct.pack('!BBH', 0, number, len(body)) if four else struct.pack('!IHBB', len(body), 0, 0, number))
    if number in (6, 17, 58, 1):
        place = {6: 16, 17: 6, 1: 2, 58: 2}[number]
        value = checksum((b'' if number == 1 else pseudo) + body)
        body = body[:place] + struct.pack('!H', value) + body[place + 2:]
    if four:
        head = struct.pack('!BBHHHBBH4s4s', 0x45, 0, 20 + len(body), mark, 0, 64, number, 0, a, b)
        return head[:10] + struct.pack('!H', checksum(head)) + head[12:] + body
    return struct.pack('!IHBB16s16s', 0x60000000 | mark, len(body), number, 64, a, b) + body

def body_of(packet, mark, flags):
    number = packet['protocol']
    ports = struct.pack('!HH', packet.get('sourcePort') or 0, packet.get('destinationPort') or 0)
    if number == 6:
        return ports + struct.pack('!IIBBHHH', mark << 12, 0 if flags == 2 else (mark << 12) + 7, 0x50, flags, 4096, 0, 0)
    if number == 17:
        return ports + struct.pack('!HH', 12, 0) + struct.pack('!I', mark)
    if number == 132:
        return ports + struct.pack('!II', mark, 0)
    return struct.pack('!BBHHH', 8 if number == 1 else 128, 0, 0, mark, 1) + struct.pack('!I', mark)

def read_ip(data):
    """(mark, source, destination, protocol, body) of an IP packet."""
    if data[0] >> 4 == 4:
        size = (data[0] & 15) * 4
        return (struct.unpack('!H', data[4:6])[0], socket.inet_ntop(socket.AF_INET, data[12:16]), socket.inet_ntop(socket.AF_INET, data[16:20]), data[9], data[size:])
    return (struct.unpack('!I', data[:4])[0] & 0xfffff, socket.inet_ntop(socket.AF_INET6, data[8:24]), socket.inet_ntop(socket.AF_INET6, data[24:40]), data[6], data[40:])

def send(packet, mark, flags):
    data = ip_packet(packet['source'], packet['destination'], packet['protocol'], body_of(packet, mark, flags), mark)
    if packet['hook'] == 'output':
        try:
            if ':' in packet['source']:
                sender6.sendto(data, (packet['destination'], 0))
            else:
                sender.sendto(data, (packet['destination'], 0))
        except OSError:
            return
        return
    index = names.index(packet['in'])
    kind = b'\x86\xdd' if ':' in packet['source'] else b'\x08\x00'
    lines[packet['in']].send(bytes.fromhex('02000000%04x' % index) + bytes.fromhex('02000000%04x' % (256 + index)) + kind + data)

def gather(patience, note):
    """Hands on what comes out of the firewall until it is silent."""
    sockets = {line.fileno(): ('out', name, line) for name, line in lines.items()}
    sockets.update({raw.fileno(): ('in', (family, number), raw) for raw, family, number in inside})
    while True:
        ready, _, _ = select.select(list(sockets), [], [], patience)
        if not ready:
            return
        for handle in ready:
            kind, name, source = sockets[handle]
            for _ in range(512):
                try:
                    data, address = source.recvfrom(65536)
                except BlockingIOError:
                    break
                if kind == 'out':
                    if address[2] == socket.PACKET_OUTGOING or data[12:14] not in (b'\x08\x00', b'\x86\xdd'):
                        continue
                    note('out', name, read_ip(data[14:]))
                else:
                    family, number = name
                    if family == socket.AF_INET:
                        note('in', number, read_ip(data))
                    else:
                        note('in', number, (None, address[0], None, number, data))

def mark_inside(number, body):
    try:
        if number == 6:
            return struct.unpack('!I', body[4:8])[0] >> 12
        if number == 17:
            return struct.unpack('!I', body[8:12])[0]
        if number == 132:
            return struct.unpack('!I', body[4:8])[0]
        return struct.unpack('!H', body[4:6])[0]
    except struct.error:
        return None

def rejected(number, body):
    """The mark of the packet that an answer refuses; None: it refuses nothing."""
    try:
        if number == 6 and body[13] & 4:
            ack = struct.unpack('!I', body[8:12])[0]
            return (struct.unpack('!I', body[4:8])[0] >> 12) if not body[13] & 16 else ack >> 12
        if number == 1 and body[0] == 3:
            return read_ip(body[8:])[0]
        if number == 58 and body[0] == 1:
            return read_ip(body[8:])[0]
    except (struct.error, IndexError):
        pass
    return None

def judge(packets, first_mark):
    seen = {}
    def note(kind, name, read):
        mark, source, destination, number, body = read
        refused = rejected(number, body)
        own = mark_inside(number, body)
        index = own if own is not None and own in wanted and not (refused is not None) else None
        if refused is not None and refused in wanted:
            seen.setdefault(refused, {'verdict': 'reject'})
            return
        if index is None:
            return
        packet = wanted[index]
        if number != packet['protocol']:
            return
        port = struct.unpack('!H', body[2:4])[0] if number in (6, 17, 132) else None
        if kind == 'in':
            seen[index] = {'verdict': 'accept', 'place': 'inside', 'destination': destination, 'destinationPort': port}
        elif number not in (1, 58) or body[0] in (8, 128):
            seen[index] = {'verdict': 'accept', 'place': name, 'destination': destination, 'destinationPort': port, 'source': source,
                           'sourcePort': struct.unpack('!H', body[0:2])[0] if port is not None else 0}
    wanted = {}
    for at, packet in enumerate(packets):
        wanted[first_mark + at] = packet
        send(packet, first_mark + at, 2)
    gather(0.06, note)
    first = [seen.get(first_mark + at, {'verdict': 'drop'}) for at in range(len(packets))]
    return first, follow(packets, first, first_mark + len(packets), wanted, seen, note)

def follow(packets, first, mark, wanted, seen, note):
    """Of connections that got through: what becomes of their next packet, after the far end has answered. None: none got through."""
    open_ones = [(at, packet, came) for at, (packet, came) in enumerate(zip(packets, first))
                 if packet['hook'] == 'forward' and came.get('place') in lines and packet['protocol'] in (6, 17)]
    wanted.clear()
    for at, packet, came in open_ones:
        answer = {'hook': 'forward', 'in': came['place'], 'source': came['destination'], 'destination': came['source'], 'protocol': packet['protocol'],
                  'sourcePort': came['destinationPort'], 'destinationPort': came['sourcePort']}
        send(answer, 0, 18)
    gather(0.06, note)
    seen.clear()
    for at, packet, came in open_ones:
        wanted[mark + at] = packet
        send(packet, mark + at, 16)
    gather(0.06, note)
    found = {at: seen.get(mark + at, {'verdict': 'drop'}) for at, _, _ in open_ones}
    return [found.get(at) for at in range(len(packets))]

def load(given):
    run('nft', 'flush', 'ruleset')
    for kind, text in given.items():
        if kind == 'nft':
            run('nft', '-f', '-', text=text)
        else:
            run(kind + '-restore', text=text)
    told = {'loaded': True, 'nft': run('nft', 'list', 'ruleset'), 'json': run('nft', '-j', 'list', 'ruleset')}
    for kind in ('iptables', 'ip6tables'):
        if kind in given:
            told[kind] = run(kind + '-save')
    return told

next_mark = 1
print(json.dumps({'ready': True}), flush=True)
try:
    for line in sys.stdin:
        asked = json.loads(line)
        try:
            if 'load' in asked:
                answer = load(asked['load'])
            else:
                if next_mark > 50000:
                    next_mark = 1
                seen_first, seen_next = judge(asked['packets'], next_mark)
                answer = {'seen': seen_first, 'next': seen_next}
                next_mark += 2 * len(asked['packets'])
        except RuntimeError as error:
            answer = {'error': str(error)}
        print(json.dumps(answer), flush=True)
finally:
    holder.kill()
