from server_tests.test_refusals import Parts as P


class X(P):
    def test_addresses_that_are_none(self):
        for address in ("", "x", "//api/x", "http://[", "/api/\x00", "/api/parts?of=/api/parts", "/api/%00"):
            a = self.of(address)
            print(repr(address), a.status_code, a.content[:60])
