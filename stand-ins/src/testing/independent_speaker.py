"""Calls a classic server by an independent implementation of RPC, NTLM and DCOM, and prints what came, a line of JSON each."""
import json
import os
import sys

from impacket.dcerpc.v5 import transport
from impacket.dcerpc.v5.dcomrt import DCOMANSWER, DCOMCALL, INTERFACE, DCOMConnection, IObjectExporter, IRemoteSCMActivator
from impacket.dcerpc.v5.dtypes import LPWSTR, ULONG, USHORT
from impacket.dcerpc.v5.dcomrt import error_status_t
from impacket.dcerpc.v5.dtypes import FILETIME
from impacket.dcerpc.v5.ndr import NDRPOINTER, NDRSTRUCT
from impacket.uuid import string_to_bin, uuidtup_to_bin

host, port, user, clsid = sys.argv[1:5]
password = os.environ["PASSWORD"]
SERVER = "39c13a4d-011e-11d0-9675-0020afd8adb3"
COMMON = "f31dfde2-07b6-11d2-b2d8-0060083ba1fb"
NOBODYS = "f31dfdea-07b6-11d2-b2d8-0060083ba1fb"


class Status(NDRSTRUCT):
    structure = (
        ("start", FILETIME),
        ("current", FILETIME),
        ("last", FILETIME),
        ("state", USHORT),
        ("groups", ULONG),
        ("bandwidth", ULONG),
        ("major", USHORT),
        ("minor", USHORT),
        ("build", USHORT),
        ("reserved", USHORT),
        ("vendor", LPWSTR),
    )


class StatusPointer(NDRPOINTER):
    referent = (("Data", Status),)


class GetStatus(DCOMCALL):
    opnum = 6
    structure = ()


class GetStatusResponse(DCOMANSWER):
    structure = (("status", StatusPointer), ("ErrorCode", error_status_t))


class GetLocale(DCOMCALL):
    opnum = 4
    structure = ()


class GetLocaleResponse(DCOMANSWER):
    structure = (("locale", ULONG), ("ErrorCode", error_status_t))


class Unknown(DCOMCALL):
    opnum = 77
    structure = ()


class UnknownResponse(DCOMANSWER):
    structure = (("ErrorCode", error_status_t),)


def syntax(iid):
    return uuidtup_to_bin((iid, "0.0"))


def connection(level, secret=password):
    made = transport.DCERPCTransportFactory(f"ncacn_ip_tcp:{host}[{port}]")
    rpc = made.get_dce_rpc()
    if level != 1:
        made.set_credentials(user, secret, "", "", "")
        rpc.set_credentials(*made.get_credentials())
        rpc.set_auth_level(level)
    rpc.connect()
    return rpc


def tell(what, **more):
    print(json.dumps({"what": what, **more}), flush=True)


def failing(what, work):
    try:
        work()
        tell(what, says="nothing")
    except Exception as error:
        tell(what, says=str(error))


for level in (1, 2, 5, 6):
    names = [binding["aNetworkAddr"].rstrip("\0") for binding in IObjectExporter(connection(level)).ServerAlive2()]
    tell("bindings", level=level, names=[name for name in names if name])
failing("wrong password", lambda: IObjectExporter(connection(5, "another")).ServerAlive())
failing(
    "unknown class",
    lambda: IRemoteSCMActivator(connection(5)).RemoteCreateInstance(
        string_to_bin(clsid[:-2] + "99"), string_to_bin(SERVER)
    ),
)
for level in (2, 5, 6):
    DCOMConnection.PORTMAPS.clear()
    INTERFACE.CONNECTIONS.clear()
    INTERFACE.CONNECTIONS[host] = {}
    mapper = connection(level)
    DCOMConnection.PORTMAPS[host] = mapper
    server = IRemoteSCMActivator(mapper).RemoteCreateInstance(string_to_bin(clsid), string_to_bin(SERVER))
    status = server.request(GetStatus(), syntax(SERVER), uuid=server.get_iPid())["status"]
    tell("status", level=level, vendor=status["vendor"].rstrip("\0"), state=status["state"], build=status["build"])
    common = server.RemQueryInterface(1, (string_to_bin(COMMON),))
    tell("locale", level=level, locale=common.request(GetLocale(), syntax(COMMON), uuid=common.get_iPid())["locale"])
    failing("unknown interface of an object", lambda: server.RemQueryInterface(1, (string_to_bin(NOBODYS),)))
    failing("unknown operation", lambda: server.request(Unknown(), syntax(SERVER), uuid=server.get_iPid()))
    failing("unknown interface", lambda: server.request(Unknown(), syntax(NOBODYS), uuid=server.get_iPid()))
    server.RemRelease()
    tell("released", level=level)
