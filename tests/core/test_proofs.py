"""How senders prove who they are: with senders that are not ours, and with what does not fit."""

import base64
import hashlib
import hmac
import shutil
import subprocess
from datetime import UTC, datetime

import httpx
import pytest
from hypothesis import given
from hypothesis import strategies as st
from standardwebhooks import Webhook

from dromikon.core.proofs import PROOFS, Asked, Settings

NOW = 1_795_000_000_000
SECRET = "whsec_" + base64.b64encode(b"quillmere-garden-tickets").decode()


def asked(headers=(), body=b"{}", key="", at=NOW, method="POST", target="/in/x"):
    return Asked(method, target, {k.lower(): v for k, v in dict(headers).items()}, body, at, key)


def refused(name, request, settings):
    found = PROOFS[name].check(request, settings)
    return found and found.reason


class TestSecrets:
    KEPT = Settings((hashlib.sha256(b"one").hexdigest(), hashlib.sha256(b"two").hexdigest()),
                    kept=lambda s: hashlib.sha256(s.encode()).hexdigest(), user="kiosk")  # fmt: skip

    @pytest.mark.parametrize("token", ["one", "two"])
    def test_while_one_is_rotated_both_count(self, token):
        assert refused("bearer", asked({"Authorization": f"Bearer {token}"}), self.KEPT) is None
        assert refused("address", asked(key=token), self.KEPT) is None
        assert (
            refused("basic", asked({"Authorization": httpx.BasicAuth("kiosk", token)._auth_header}), self.KEPT) is None
        )

    def test_others_do_not(self):
        assert refused("bearer", asked({"Authorization": "Bearer three"}), self.KEPT) == "token"
        assert refused("bearer", asked({"Authorization": "one"}), self.KEPT) == "token"
        assert refused("address", asked(), self.KEPT) == "token"
        assert (
            refused("basic", asked({"Authorization": httpx.BasicAuth("desk", "one")._auth_header}), self.KEPT)
            == "password"
        )
        assert refused("basic", asked({"Authorization": "Basic \xff\xff"}), self.KEPT) == "password"
        assert refused("bearer", asked({"Authorization": "Bearer "}), Settings(("",))) == "token", (
            "no secret is no proof"
        )


class TestDigest:
    SETTINGS = Settings(("quillmere-kiosk",), user="kiosk")

    def answered(self, password="quillmere-kiosk", user="kiosk", at=NOW):
        """What a client that is not ours answers to our challenge."""
        challenge = PROOFS["digest"].check(asked(), self.SETTINGS).challenge
        flow = httpx.DigestAuth(user, password).auth_flow(httpx.Request("POST", "http://intake/in/x"))
        next(flow)
        answer = flow.send(
            httpx.Response(
                401, headers={"www-authenticate": challenge}, request=httpx.Request("POST", "http://intake/in/x")
            )
        )
        return asked({"Authorization": answer.headers["authorization"]}, at=at)

    def test_the_right_password_counts_for_a_while_and_each_answer_once(self):
        answer = self.answered()
        assert refused("digest", answer, self.SETTINGS) is None
        late = PROOFS["digest"].check(self.answered(at=NOW + 400_000), self.SETTINGS)
        assert "stale=true" in late.challenge and not late.guess
        key, until = PROOFS["digest"].once(answer, self.SETTINGS)
        assert key and until > NOW

    @pytest.mark.parametrize("wrong", [{"password": "x"}, {"user": "desk"}])
    def test_the_wrong_one_does_not(self, wrong):
        assert refused("digest", self.answered(**wrong), self.SETTINGS) == "password"

    def test_an_answer_for_another_address_does_not(self):
        answer = self.answered()
        elsewhere = Asked("POST", "/in/y", answer.headers, b"", NOW)
        assert refused("digest", elsewhere, self.SETTINGS) == "password"


class TestStandardWebhooks:
    SETTINGS = Settings((SECRET,))

    def signed(self, body='{"a": 1}', secret=SECRET, at=NOW):
        moment = datetime.fromtimestamp(at // 1000, UTC)
        signature = Webhook(secret).sign("msg_1", moment, body)
        return {"webhook-id": "msg_1", "webhook-timestamp": str(at // 1000), "webhook-signature": signature}

    def test_what_the_schemes_own_library_signs_is_taken(self):
        request = asked(self.signed(), b'{"a": 1}')
        assert refused("standard", request, self.SETTINGS) is None
        assert PROOFS["standard"].once(request, self.SETTINGS) == ("msg_1", NOW + 600_000)

    def test_with_two_secrets_either_signature_counts(self):
        both = self.signed()
        both["webhook-signature"] = "v1,bm90aGluZw== v2,x " + both["webhook-signature"]
        other = "whsec_" + base64.b64encode(b"before").decode()
        assert refused("standard", asked(both, b'{"a": 1}'), Settings((other, SECRET))) is None

    @pytest.mark.parametrize(
        ("change", "body", "reason"),
        [
            ({}, b'{"a": 2}', "signature"),
            ({"webhook-id": "msg_2"}, b'{"a": 1}', "signature"),
            ({"webhook-timestamp": str(NOW // 1000 - 301)}, b'{"a": 1}', "time"),
            ({"webhook-timestamp": "soon"}, b'{"a": 1}', "signature"),
            ({"webhook-signature": ""}, b'{"a": 1}', "signature"),
            ({"webhook-signature": "v1,\xe4"}, b'{"a": 1}', "signature"),
        ],
    )
    def test_what_was_changed_or_is_old_is_not(self, change, body, reason):
        assert refused("standard", asked({**self.signed(), **change}, body), self.SETTINGS) == reason


class TestSignatures:
    @pytest.mark.skipif(shutil.which("openssl") is None, reason="openssl signs")
    @pytest.mark.parametrize("prefix", ["", "sha256="])
    def test_what_openssl_signs_is_taken(self, prefix):
        body = b'{"badge": 7}'
        made = subprocess.run(
            ["openssl", "dgst", "-sha256", "-hmac", "quillmere-badges", "-hex"],
            input=body,
            capture_output=True,
            check=True,
        )
        shown = made.stdout.decode().split()[-1]
        settings = Settings(("quillmere-badges",), header="X-Signature", prefix=prefix)
        assert refused("signature", asked({"X-Signature": prefix + shown}, body), settings) is None
        assert refused("signature", asked({"X-Signature": prefix + shown.upper()}, body), settings) is None
        assert refused("signature", asked({"X-Signature": prefix + shown}, body + b" "), settings) == "signature"

    def test_in_base64_letters_count(self):
        body = b"x"
        shown = base64.b64encode(hmac.digest(b"k", body, "sha256")).decode()
        settings = Settings(("k",), header="X-Sum", encoding="base64")
        assert refused("signature", asked({"X-Sum": shown}, body), settings) is None
        assert refused("signature", asked({"X-Sum": shown.swapcase()}, body), settings) == "signature"


@given(
    st.sampled_from(PROOFS.names()),
    st.dictionaries(
        st.sampled_from(["authorization", "x-signature", "webhook-id", "webhook-timestamp", "webhook-signature"]),
        st.text(max_size=80) | st.sampled_from(['Digest nonce="1.x"', "Digest ,,=", "Basic !", "v1,a v1,b"]),
    ),
    st.binary(max_size=40),
)
def test_nothing_that_can_be_sent_raises_or_passes(name, headers, body):
    assert PROOFS[name].check(asked(headers, body), Settings(("a secret",), user="u")) is not None
