"""What is spoken of and did not happen: denied, nearly, asked, wished, claimed."""

from __future__ import annotations

import re

from .figures import LEAST_HZ
from .marks import MarkedLine

CLAIM = (
    r"(?:was told|been told|told me|supposedly|apparently|(?:he|she|they|seller|dealer|shop|brother|neighbou?r|vendor|the man) (?:says?|said|reckons?|claims?)(?= it| that| \d+(?:\.\d+)? ?k?(?:w|va)\b)|reckoned to)|(?:it's |it is |is |are )?(?:rated|rating|claims?|claimed|advertised|(?:name|data|rating)? ?plate|bought|sold as|advert\w*|listing|manual|booklet|leaflet|data ?sheet|instructions|on paper|sticker|brochure|the box|spec(?:s|ification)?"
    r"|label|supposed to|meant to|should be|should (?:do|make|give|read|have)|expect(?:ed|ing)?|wanted|aim(?:ed|ing) (?:for|at)|nominally|(?:noise |night |the )?limit|max allowed)"
)
"""Words after which a figure is a claim or a wish, and was not read."""
SAID_ON = re.compile(
    r"\b(?:says?|said|claims?|reads?|printed|marked|stamped) [^,;]*? on (?:the|its|one) (?:side|box|back|label|plate|lid|front|bottom|case)\b"
)
"""``says 3000w on the side``: its nameplate."""
GRID = r"(?:the )?(?:mains|grid|utility|street|town|power company)(?: power| supply)? (?:is |was |just |then )*(?:came |comes |went |goes |cut |dropped )*(?:back|off|on|out|down|failed|fails|returned|restored|gone|live)|(?:switched |went |gone |now )*(?:back |over )+(?:on|to|onto) (?:the )?(?:mains|grid|utility|street power)"
"""What the grid did, and not the source."""
INTENTION = (
    r"(?:(?:is |are )?not allowed|forbidden|mustn't|must not|if|unless|in case|(?:to )?see (?:if|whether)|check (?:if|whether)|(?:i |we |you |it |and )*(?:need|needs|have to|has to|plan to|planning to|going to|gonna|remember to|ought to|want to|(?:should|could|would|might|may|must)(?! not))"
    r"|(?:i'll|we'll|it'll|(?:i |we |it |he |she |<L> )?will(?! not))|don't forget|to ?do|next time|(?<=, )don't|do not(?! know))"
)
"""Words after which a clause says what may or ought to be."""
REAL_AGAIN = re.compile(
    r"\b(?:but|got|gets|actual(?:ly)?|measured?|measures|reads?|reading|really|only|now|found|saw|made|makes|it did)\b"
)
"""Words with which a clause comes back to what was seen."""
DENIED = re.compile(
    r"(?:\b(?:no|not|never|nothing|nobody|none|without|hardly|barely|neither|nor|zero|any|almost|nearly|about to|going to|gonna|want(?:ed)? to|try to|tried to"
    r"|if|unless|in case|whether|would(?: have)?|could(?: have)?|might(?: have)?|may|should(?: have)?|will|must|supposed to|meant to|has to|needs? to|ready to|before|until|(?<!had )to)"
    r"|(?:wo|did|does|do|is|was|were|are|would|could|should|ca|has|have|had|must|n)n'?t)(?: (?:bad|odd|funny|strange|burning|burnt|hot|weird|unusual|real|visible|obvious|noticeable|further|other|big|major|serious|nasty|be|been|have|had|yet|even|ever|it|that|the|any|a|an|come|came|go|get|got|go and|of|sign of|single|more|once|really|at all|feel|feels|see|seen|hear|heard|saw|smell|smelled))*\s*$"
)
"""What stands before words that then tell of no event."""
OF_A_LENGTH = re.compile(r"(?:\b(?:before|until|to))(?: (?:it|that|the|a|an))*\s*$")
"""``ran until it tripped``, ``4 min before it went off``: what is told in the past did happen; ``until it trips`` may not."""
PAST = re.compile(r"\b(?:\w+ed|went|shut|cut|let|died|quit|gone|came|was|got|fell|sank)\b")
EARTH_FAULT = r"(?:the |its )?(?:rcd|rcbo|gfci|gfi|afci|elcb|residual current device|earth leakage(?: switch| breaker)?|safety switch)s?"
TEST_BUTTON = rf"(?:(?:{EARTH_FAULT}|earth leakage) )?(?:test(?:ing)?(?: button| switch)?|self[- ]?test)(?: on {EARTH_FAULT})? (?:trips?|tripped|works?|worked|ok|fine|passed)(?: it| ok| fine)?|{EARTH_FAULT} (?:trips|tripped)(?: ok| fine)? (?:on|by|with|when|at) (?:the |its |a |i )?(?:test(?:ed|ing)?(?: button)?|press\w*(?: test| the button| it)?|button)"


FALL = re.compile(
    r"\b(?:dip\w*|drop\w*|sag\w*|fall\w*|fell|lost|loses|down|rose|rises?|climb\w*|gain\w*|moved|shifted|going up|goes up|went up|droop\w*|out|off)"
    r"(?: was| of| is| only| just)*(?P<by> by)?(?: about| around| roughly| some| ~| nearly| almost)* ?(?P<n>\d+(?:\.\d+)?) ?(?P<unit>v|volts?|hz|hertz|%|percent|points?|a|amps?)(?![a-z])(?! to\b)(?:/ ?\d* ?(?:h|min|m)\b)?"
)
"""``sagged by 18 volts``: how far it fell, and no level."""
FALL_AFTER = re.compile(
    r"(?<![\w.])(?P<n>\d+(?:\.\d+)?) ?(?P<unit>v|volts?|%|percent|points?) (?:was |is |of )*(?:lost|gone|drop(?:ped)?|sag|dip|less|lower|higher|more|difference|apart)\b(?! (?:to|from|at)\b)"
)
"""``12 v lost in the cord``."""
WARMER = re.compile(
    r"(?<![\w.])\d+(?:\.\d+)? ?(?:°? ?[cfk]|deg(?:ree)?s?(?: ?[cf])?) (?:warmer|hotter|cooler|colder|above|over|below|rise|more|less|up on|under)\b"
)
HEADING = re.compile(
    r"^\s*(?:inv|inverter|gen|genny|generator|genset|station|unit|set|battery|box)\w* \d+(?:[.,]\d+)? ?(?:k?w|k?va|k?wh)\s*:",
    re.I,
)
"""``inverter 2000w: …``: which one, by its nameplate."""
DRAINED = re.compile(
    r"\b(?:drain\w*|used|consumed|self[- ]discharg\w*|went through|ate)(?: [a-z]+){0,2} (?P<n>\d+(?:\.\d+)?) ?(?:%|percent)"
)
THRESHOLD = re.compile(
    r"\b(?:sleeps?|wakes?)(?: up)? (?:under|below|above|at|over|from) (?:about )?\d+(?:\.\d+)? ?(?:w|va|watts?)\b|\bfirst \d+ ?%"
)
"""``sleeps under 20 w``: how it is set, and no reading."""
FRACTION = re.compile(r"(?<![\d./])[1-9]/[23458](?![\d/])(?! ?(?:v|a|w|kw)\b)")
"""``3/4 of a tank``."""
MOST_FALL = 0.3
"""What volts fall by at most, as a share of nominal, where it does not say whether they fell by it or to it."""
RATING = tuple(
    re.compile(words)
    for words in (
        r"\b(?:plate|label|sticker|box|manual|spec|claim|ad)s? ?: ?\d+(?:[.,]\d+)? ?[a-z]+\b",
        r"\b(?:fuses?|breakers?|mcbs?|rcds?|rcbos?|main switch)(?: is| was| of| rated| a| an)* \d+(?:\.\d+)? ?(?:a|amps?|ma)\b(?: fitted| class)?",
        r"\b\d+(?:\.\d+)? ?(?:a|amps?) (?:main |slow |fast |plug )?(?:fuses?|breakers?|mcbs?|rcds?|plugs?(?![- ](?:in )?meter)|sockets?(?! meter)|inlets?|outlets?)\b",
        r"\b(?:inverter|generator|genny|gen|genset|set|station)(?: is| of| a| an)* \d+(?:[.,]\d+)? ?(?:k?w|k?va|k?wh|watts?) (?:petrol|diesel|pure|sine|modified|inverter|gas|propane|dual|unit|model|class|max|continuous|peak|surge|rated|one|type)\b",
        r"\b(?:is|are|it's)(?: only| just)* an? \d+(?:[.,]\d+)? ?(?:k?w|k?va|watts?|a|amps?|v|volts?)\b",
        r"\b\d+ ?x ?\d+(?:[.,]\d+)? ?(?:k?w|k?va|ah|v|watts?)\b",
        r"\b\d+(?:[.,]\d+)? ?(?:ah|amp[- ]?hours?)\b(?:[, ]*\d+ ?v(?:olts?)?\b)?|\b\d+ ?v(?:olts?)?[, ]+\d+ ?ah\b",
        r"\b(?:tank|can|bottle)s? (?:holds?|takes?|of) \d+(?:[.,]\d+)? ?(?:l|lit\w+|gal\w*|kg)\b",
        r"\b\d+(?:[.,]\d+)? ?(?:k?w|v|ah|kg|l|watts?) each\b",
        r"\b\d+(?:[.,]\d+)? ?(?:k?wh|a|l) (?:a|per|each) (?:year|week|month)\b",
    )
)
"""What something is, or is rated for, and no reading: ``fuse 200 a``, ``2 x 330 w``, ``100 ah 12 v``."""
OF_THE_MAINS = re.compile(
    r"\b(?:the )?(?:mains|grid|utility|street)(?: voltage| power| side)?(?: is| was| at| reads?| gives| says| of|:)* (?:\d+(?:\.\d+)? ?(?:v|volts?|hz)\b|\d{3}(?= ?$|,))(?:[, ]+\d+(?:\.\d+)? ?(?:v|volts?|hz)\b)*"
)
"""``mains 231 v``: read at another source."""
PLANNED = re.compile(r"\s*(?:tomorrow|next(?: up)?|plan(?:ned)?|later|to ?do|to test|still to (?:do|test))\s*:")
"""What a line begins with that tells what is to come."""
BY_HAND_AFTER = re.compile(
    r"\s*(?:by hand|(?:at|with|by|on) (?:its|the|my) (?:own )?(?:key|switch|button)|by me|by us|manually|on purpose|myself|for (?:lunch|the night|now|dinner|tea|a break)|to (?:cool|rest|refuel|fill|check|change|swap|let|move))\b"
)
BY_HAND_BEFORE = re.compile(
    r"\b(?:i|we|he|she|they|you|was|were|been|got|somebody|someone)(?:'ve|'d)?(?: had| have| then| just| was| to)*\s*$"
)
HANDLED = re.compile(r"(?:shut|turn|switch|cut|kick|click|knock|drop|stopp|trip)")


def is_of_oil(line: MarkedLine) -> bool:
    """Whether what was topped up is oil: the line speaks of it, and of no fuel."""
    low = line.text.lower()
    return bool(re.search(r"\boil\b", low)) and not re.search(
        r"\b(?:fuel|petrol|gas|diesel|tank|propane|refuel\w*|water)\b", low
    )


def is_by_hand(line: MarkedLine, start: int, end: int) -> bool:
    """Whether words that else tell of a trip say that somebody switched it off: ``switched off by hand``, ``i shut it down``."""
    if not HANDLED.match(line.low[start:end].lstrip()):
        return False
    first = line.clause(start)[0]
    return bool(BY_HAND_AFTER.match(line.low, end) or BY_HAND_BEFORE.search(line.low[first:start]))


SUBJECTS = re.compile(
    r"(?:shut|cut|turned|switched|kicked|warning|governor|screw|throttle|idle|avr|pot|speed|revs|voltage|frequency|tank|lead|panels|brim|it|that|this|she|he|all|can|bottle|fuel|petrol|gas|diesel|propane|cooling|keeps|kept|started|audible|loud|brief|short|long|continuous|constant|faint|pack|cells?|charger|charging|charged|charge|all|everything|the|a|an|and|then|but|so|again|just|now|or|after|until|till|before|when|for|at|on|of|in|to|is|was|has|have|had|it's|that's|she's"
    r"|source|set|genny|generator|gen|genset|inverter|unit|output|outputs?|station|lot|thing|machine|power|engine|motor|sockets?|outlets?|lights?|breakers?|main|bms|ac|dc|battery|batteries|bank|supply|house|whole|both|top|cb|mcb|circuit|thermal|time|times|always|each|every|soon|came|back|again|later|self"
    r"|i|we|got|started|starts?|starting|promptly|suddenly|nearly|almost|alarm|overload|overloaded|light|lamp|beeps?|beeped|beeping|screen|display|ran|run|running|held|lasted|only|about|around|minutes?|seconds?|load|loads|on|off|low|high|oil|hot|warm|cold|once|twice|itself|finally|there|here|too|much|more|over|its|still|straight|away|immediately|instantly|directly|with|by|from|under|kw|va|empty|flat|tank|dry|code|fault|error|buzz|bang|pop|click|clunk)"
)
"""Words that may stand before an end of the source without being something else that ended."""


TAIL_OF_OTHER = re.compile(
    r"\s+(?:to (?!(?:a |the |an )*(?:stop|nothing|zero|standstill|black|dark|end|touch|hold|full|empty|flat|fill|brim|top|neck|line)\b|[\ue000-\ue00d])|from (?!the (?:saw|start)\b)"
    r"|of (?:the|my|a|our|paper|time|\w+ing)\b|in (?:the|my|a|our) (?!night|evening|morning|afternoon|middle|end|first|second|last|meantime|dark|row|moment|heat|sun|cold)"
    r"|for (?:the (?!first|second|third|fourth|last|next|rest|whole)|my |oil|fuel|gas|petrol|dinner|tea)"
    r"|(?:the|my|our|his|her) (?!first|second|third|last|moment|instant|same|whole|minute|next|other)(?P<object>[a-z]+)|an? (?:bucket|can|jug|cup|car|phone|hat)\b"
    r"|(?:the |my )?\ue004|easy\b|smoking\b|next door|down a bit|switch\b|button\b|test\b|rating\b|min\b|max\b|timer\b|counter\b|clock\b)"
)
"""What goes on after words of an event so that they tell of something else: ``ran out of paper``, ``went off to bed``."""


def goes_on_otherwise(line: MarkedLine, end: int) -> bool:
    """Whether what stands after words that tell of an event makes them tell of something else."""
    tail = TAIL_OF_OTHER.match(line.low, end)
    return bool(tail) and not (tail["object"] and SUBJECTS.fullmatch(tail["object"]))  # type: ignore[index]


def stranger_before(line: MarkedLine, at: int) -> str:
    """The word right before a place if it names something else than the source: ``mains side`` dead."""
    first = line.clause(at)[0]
    word = re.search(
        r"([a-z][a-z'-]+)\s+(?:[\ue008\ue009]+\s+|\d\s+)?(?:(?:just|then|has|have|had|also|both)\s+)*$",
        line.low[first:at],
    )
    if word and word[1] in ("battery", "batteries"):
        owner = re.search(
            r"\b(torch|meter|phone|radio|camera|car|watch|thermometer|remote|drill|headlamp|laptop) $",
            line.low[first : first + word.start()],
        )
        return owner[1] if owner else ""  # ``torch batteries flat``
    if word and word[1] == "thermal" and re.search(r"[\ue004\ue005] $", line.low[first : first + word.start()]):
        return "load's own protector"  # ``pump thermal tripped``
    return "" if word is None or SUBJECTS.fullmatch(word[1]) or word[1].endswith(("ly", "ed")) else word[1]


def other_after(line: MarkedLine, at: int) -> str:
    """The word after a place if it names something else than the source: reset the ``meter``."""
    word = re.match(r"\s+(?:the|my|a|our)\s+([a-z][a-z'-]+)", line.low[at:])
    return "" if word is None or SUBJECTS.fullmatch(word[1]) else word[1]


def shield_falls(line: MarkedLine, v_nominal: float) -> None:
    """Keep what figures fell by, and fractions, from being read as levels."""
    for match in list(FALL.finditer(line.low)):
        unit, word = match["unit"][0], match[0].split()[0]
        by = bool(match["by"]) or unit in "%p" or (unit == "v" and float(match["n"]) < MOST_FALL * v_nominal)
        by = by or (unit == "h" and float(match["n"]) < LEAST_HZ)
        if by and not (word in ("out", "off", "down") and unit not in "%p" and not match["by"]):
            line.shield(match.start("n"), match.end())
    for match in list(FALL_AFTER.finditer(line.low)):
        if match["unit"][0] in "%p" or float(match["n"]) < MOST_FALL * v_nominal / 2:
            line.shield(match.start(), match.end())
    for match in list(DRAINED.finditer(line.low)):
        line.shield(match.start("n"), match.end())
    said = line.text.lower()  # a word of a claim may be kept out already, and its figure not
    for spelt in (*RATING, OF_THE_MAINS):
        for match in list(spelt.finditer(said)):
            line.shield(match.start(), match.end())
    if PLANNED.match(line.low):
        line.shield(0, len(line.low))
    for spelt in (FRACTION, WARMER, HEADING, THRESHOLD):
        for match in list(spelt.finditer(line.low)):
            line.shield(match.start(), match.end())


def shield_claims(line: MarkedLine) -> None:
    """Keep claims and the test of a protective device from being read as what the source did."""
    for match in list(line.find(CLAIM)):
        end = line.clause(match.start())[1]
        real = REAL_AGAIN.search(line.low, match.end(), end)
        line.shield(match.start(), real.start() if real else end)
    for match in list(SAID_ON.finditer(line.low)):
        line.shield(match.start(), match.end())
    for match in list(line.find(GRID)):
        line.shield(match.start(), match.end())
    for match in list(line.find(INTENTION)):
        line.shield(match.start(), line.clause(match.start())[1])
    if dont := re.match(r"\s*don't\b", line.low):
        line.shield(dont.start(), line.clause(dont.end() - 1)[1])
    for match in list(line.find(TEST_BUTTON)):
        line.shield(match.start(), match.end())


def is_denied(line: MarkedLine, at: int, end: int = 0) -> bool:
    """Whether what stands before a place says that what follows, up to ``end``, did not happen."""
    if end and re.match(r" ?\?", line.low[end:]):
        return True  # ``held?``: asked, and not told
    start = line.clause(at)[0]
    before = line.low[start:at]
    denied = DENIED.search(before)
    if denied is None:
        return False
    if OF_A_LENGTH.search(before):
        told_back = re.match(r" ?: ?\ue002", line.low[end:])  # ``until it tripped: 38 s``: of the length
        return bool(told_back) or not PAST.search(line.low[at:end])
    return True
