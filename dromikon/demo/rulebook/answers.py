"""What operators write when they answer, by rule: words and tags."""

#: What the garden's operators write when they answer an alarm of a rule: (note, tags).
ANSWERS: dict[str, tuple[tuple[str, tuple[str, ...]], ...]] = {
    "jetty-closed": (
        ("A visitor went past the chain to look at the geese; called back, came at once.", ("visitor",)),
        ("Two walkers with a camera; told them the boards are slippery.", ("visitor",)),
        ("The lake warden, checking the rails.", ("staff",)),
        ("A goose, taken for a person.", ("false", "geese")),
        ("Somebody after their hat; back on the path after a minute.", ("visitor",)),
    ),
    "gate-night": (
        ("Fox under the gate, seen on the picture.", ("false", "fox")),
        ("The early shift, let in by the patrol.", ("staff",)),
        ("", ("checked",)),
    ),
    "yard-night": (
        ("Late courier, turned round at the shut bay.", ("courier",)),
        ("Somebody on foot; spoken to, left again.", ("stranger",)),
    ),
    "yard-linger": (
        ("Waiting for a lift out of the rain; asked to wait at the road.", ("stranger",)),
        ("Looked into the bins, left when spoken to. Duty manager told.", ("stranger", "told duty manager")),
    ),
    "yard-lost": (("Plug behind the potting bench again; pushed back in.", ("power",)),),
    "camera-lost": (("Switch in the lodge was restarted.", ("network",)),),
    "jetty-not-back": (
        ("Still standing at the end, drawing. Told them we close at four.", ("visitor",)),
        ("Sat down behind the rail where the camera does not see; all well.", ("visitor",)),
    ),
    "gale-close": (("Path cleared, warden walked it.", ("weather",)),),
    "wicket-call": (
        ("Called back: the post, left at the kiosk.", ("post",)),
        ("Gone when I looked.", ()),
        ("New volunteer at the wrong door.", ("staff",)),
    ),
    "plate-unknown": (
        ("Turned round in the lane.", ("stranger",)),
        ("Satellite navigation; sent to the visitor gate.", ("lost",)),
    ),
    "vault-no-card": (
        ("Bertil held the door for Clio. Reminded both.", ("staff",)),
        ("Trolley in both hands; card shown afterwards.", ("staff",)),
    ),
    "vault-excluded": (
        ("It was Agnes's brother, not him.", ("false",)),
        ("Yes. Walked on when he saw the camera; duty manager told.", ("told duty manager",)),
    ),
    "leak-chatters": (("Condensation, wiped dry.", ("condensation",)),),
    "palm-door": (("Pot delivery; wedge taken away.", ("delivery",)),),
    "palm-full": (("Door asked to wait; school party leaving.", ("visitors",)),),
    "fire-panel": (("Weekly test.", ("test",)),),
    "boiler-hot": (("Burner ran long after the cold night; boiler man rang back.", ("boiler",)),),
    "on-battery": (("Lake side only, back after a minute.", ("power",)),),
    "gate-help": (("Wheelchair ramp wanted; kiosk opened the side gate.", ("visitor",)),),
}
