"""XML namespaces of SOAP 1.2, WS-Security, WS-Notification and ONVIF."""

SOAP = "http://www.w3.org/2003/05/soap-envelope"
WSA = "http://www.w3.org/2005/08/addressing"
WSSE = "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-wssecurity-secext-1.0.xsd"
WSU = "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-wssecurity-utility-1.0.xsd"
WSNT = "http://docs.oasis-open.org/wsn/b-2"
WSTOP = "http://docs.oasis-open.org/wsn/t-1"
TDS = "http://www.onvif.org/ver10/device/wsdl"
TRT = "http://www.onvif.org/ver10/media/wsdl"
TEV = "http://www.onvif.org/ver10/events/wsdl"
TAN = "http://www.onvif.org/ver20/analytics/wsdl"
TMD = "http://www.onvif.org/ver10/deviceIO/wsdl"
TPTZ = "http://www.onvif.org/ver20/ptz/wsdl"
TDC = "http://www.onvif.org/ver10/doorcontrol/wsdl"
TAC = "http://www.onvif.org/ver10/accesscontrol/wsdl"
TAM = "http://www.onvif.org/ver10/appmgmt/wsdl"
TTH = "http://www.onvif.org/ver10/thermal/wsdl"
TT = "http://www.onvif.org/ver10/schema"
TNS1 = "http://www.onvif.org/ver10/topics"
XSI = "http://www.w3.org/2001/XMLSchema-instance"
XS = "http://www.w3.org/2001/XMLSchema"

PASSWORD_DIGEST = "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-username-token-profile-1.0#PasswordDigest"
BASE64 = "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-soap-message-security-1.0#Base64Binary"
CONCRETE_SET = "http://www.onvif.org/ver10/tev/topicExpression/ConcreteSet"

PREFIXES = {
    "s": SOAP, "wsa": WSA, "wsse": WSSE, "wsu": WSU, "wsnt": WSNT, "wstop": WSTOP, "tds": TDS, "trt": TRT,
    "tev": TEV, "tan": TAN, "tmd": TMD, "tptz": TPTZ, "tdc": TDC, "tac": TAC, "tam": TAM, "tth": TTH, "tt": TT, "tns1": TNS1, "xsi": XSI, "xs": XS,
}  # fmt: skip
