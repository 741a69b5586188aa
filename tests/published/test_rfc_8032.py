"""RFC 8032, section 7.1, tests 1 and 2: Ed25519 signatures as the installation's key makes them. From memory."""

import pytest

from tight_ledger.core.proof.keys import SigningKey

VECTORS = [
    (
        "9d61b19deffd5a60ba844af492ec2cc44449c5697b326919703bac031cae7f60",
        "d75a980182b10ab7d54bfed3c964073a0ee172f3daa62325af021a68f707511a",
        "",
        "e5564300c360ac729086e2cc806e828a84877f1eb8e5d974d873e065224901555fb8821590a33bacc61e39701cf9b46bd25bf5f0595bbe24655141438e7a100b",
    ),
    (
        "4ccd089b28ff96da9db6c346ec114e0f5b8a319f35aba624da8cf6ed4fb8a6fb",
        "3d4017c3e843895a92b70aa74d1b7ebc9c982ccf2ec4968cc0cd55f12af4660c",
        "72",
        "92a009a9f0d4cab8720e820b5f642540a2b27b5416503f8fb3762223ebdb69da085ac1e43e15996e458f3613d0f11d8c387b2eaeb4302aeeb00d291612bb0c00",
    ),
]


@pytest.mark.parametrize(("secret", "public", "message", "signature"), VECTORS)
def test_signatures(secret, public, message, signature):
    key = SigningKey("somebody", bytes.fromhex(secret))
    assert key.public.public.hex() == public
    assert key.sign(bytes.fromhex(message)).hex() == signature
    assert key.public.holds(bytes.fromhex(signature), bytes.fromhex(message))
    assert not key.public.holds(bytes.fromhex(signature), bytes.fromhex(message) + b"!")
