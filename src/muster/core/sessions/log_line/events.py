"""What happened, in plain words: which phrases mean which event."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

from ..model import EventName
from .marks import FIRST, REST, MarkedLine
from .unreal import EARTH_FAULT, goes_on_otherwise, is_by_hand, is_denied, is_of_oil, other_after, stranger_before

IT = r"(?:(?:it|that|all|the)(?:'s)? |(?:the )?(?:source|set|genny|generator|inverter|unit|output|station|lot|whole thing|whole lot|machine|power) )?(?:just |then |has |have |had |simply |promptly |again )*"
GONE = r"(?:went|goes|gone|go)"
BY_ITSELF = r"(?:without (?:me |anyone |anybody |us )?(?:touching|doing|pressing)(?: it| anything)?|untouched|by itself|by themselves|on its own|all by itself|of its own accord|itself|unaided|automatically)"
THING = r"(?:cords?|cables?|leads?|flex|plugs?|sockets?|outlets?|case|casing|terminals?|lugs?|fuses?|breakers?|connectors?|inverter|battery|batteries|wires?|wiring|housing|heatsink|sink|alternator|exhaust|transformer|charger|extension|reel)"
IS = r"(?:is|are|was|were|gets?|getting|got|gone|feels?|felt|went|going|now|a bit|a little|bit|quite|very|too|rather|pretty|slightly|really|barely|hardly|just|only|hand|nicely)"
WARM = r"(?:warm|warmish|hot|toasty|burning|scorching|lukewarm)"
PART = r"(?:engine )?(?:oil(?: filter)?|air filter|fuel filter|filters?|spark plugs?|plug|carby?|carburett?or|brushes|capacitor|belt|battery)"
PANELS = r"(?:panels?|pv|solar|array|strings?)"


class Until(StrEnum):
    """What a length of time beside an event tells."""

    NOTHING = ""
    TRIP = "trip"
    BACK = "back"
    HELD = "held"


@dataclass(frozen=True)
class Phrase:
    """Words that mean an event; ``detail`` is set where the words themselves don't say it, ``until`` what a length beside it tells."""

    name: EventName
    words: str
    detail: str = ""
    until: Until = Until.NOTHING


E = EventName
PHRASES = (
    # as Muster itself tells them back
    Phrase(E.HELD, r"start held"),
    Phrase(E.BOG, r"slowed under load without stopping"),
    Phrase(E.CUT_OFF, r"output off at its cut-off(?: · )?"),
    Phrase(E.THROUGH, r"(?:output|outlets?|sockets?)(?: is| are| stays?| still)* live (?:while|whilst|when) charging"),
    Phrase(E.CUT, r"output cut while charging"),
    Phrase(E.ADJUST, r"adjusted"),
    Phrase(E.ADJUST, r"(?:set|turned|wound|brought)(?: it)?(?: up| down| back)* to (?=<F>)"),
    Phrase(E.REPLUG, r"plugged back in pv", "pv"),
    Phrase(E.REPLUG, r"plugged back in"),
    Phrase(E.ECO, r"eco mode(?P<detail> off)"),
    Phrase(E.FAN, r"(?<!the )(?<!a )fan(?= ?$| ?[,;·–-])"),
    Phrase(E.CODE, r"code (?P<detail>breaker down|earth fault device tripped|(?:low )?oil(?: light)?|low oil pressure)(?= ?$| ?[,;·–-])"),
    # held back by what only looks like an event
    Phrase(E.DISPLAY, r"(?:screen|display|lcd|readout)(?: is| went| goes| gone| was| stayed)* (?:dead|dark|blank|black|off|out)", "dark"),
    Phrase(E.DISPLAY, r"(?:screen|display|lcd|readout)(?: is| was| stays| stayed| still)* (?:alive|lit|still on|on|up)", "alive"),
    Phrase(E.LIVE, r"(?:sockets?|outlets?|output|terminals?)(?: is| are| was| were| still| stay| stays)* live(?! (?:while|whilst|when|as)(?: it| it's)?(?: is)? (?:charg|plugged))(?: when| with| even| although| though)*(?: it| it's| the)*(?: switched| turned| power)*(?: is)?(?: off)?", "when off"),
    Phrase(E.LIVE, r"(?:still )?<F>? ?(?:at|on) the (?:sockets?|outlets?|output|terminals?)(?: with| when| although)(?: it| it's)*(?: switched| turned)* off", "when off"),
    Phrase(E.THROUGH, r"(?:outlets?|sockets?|output|ac|power)? ?(?:stays?|stayed|still|keeps|kept) (?:on|live|going|running)(?: while| whilst| when| as| during)(?: it| it's)*(?: is)? (?:charg\w+|plugged in)"),
    Phrase(E.CUT, r"(?:outlets?|sockets?|output|ac|power)? ?(?:goe?s?|went|cuts?|drops?|dropped|turns?|shuts?) (?:off|out|dead|dark)(?: while| whilst| when| as)(?: it| i| it's)*(?: is)? (?:charg\w+|plug\w*)(?: in)?(?: the)?(?: panels| charger| mains)?(?: in)?"),
    Phrase(E.CODE, r"breakers?(?: is| was)* (?:down|off|open)(?! when)", "breaker down"),
    Phrase(E.TRIP, r"(?<!it )(?:popped|threw|tripped|blew|kicked) (?:the |its |the main )?breaker(?! tripped)|breaker(?: is| was)? out(?= ?$| ?[,;.–-])", "breaker tripped", Until.TRIP),
    Phrase(E.RESET, r"(?:reset|pushed|put|flipped|switched|clicked)(?: the| its)* breakers?(?: back)?(?: in| on| up)?"),
    Phrase(E.RESET, r"breakers? (?:back|reset)(?: in| on| up)?"),
    Phrase(E.REPLUG, r"(?:re-?plugged|plugged|put|unplugged)(?: in)?(?: it| them| the)* <PANELS>(?: out)?(?: and)?(?: back)?(?: again)?(?: in)?(?: again)?", "pv"),
    Phrase(E.REPLUG, r"(?:plugged|(?<![\ue000\ue001\ue008\ue009] )put)(?: it| them| that| the <L>| <L>| the lead| the cord)* back(?: in| again)*|re-?plugged(?: it| them)?|unplugged(?: it)?(?: and)?(?: plugged)?(?: it)? back(?: in)?(?: again)?"),
    Phrase(E.SERVICE, r"(?:topped up |top up )(?:the |its )?oil|oil (?:topped up|changed|filled)|(?:added|put in) (?:(?:some|the|a bit of|a drop of|<F>|<F> of) )*oil"),
    Phrase(E.SERVICE, rf"{PART}(?:(?:,| and|,? &) (?:the )?{PART})*(?: was| were| is| all| just)* (?:cleaned|changed|replaced|swapped|fitted|renewed)(?: and (?:cleaned|gapped|replaced))?"),
    Phrase(E.SERVICE, rf"(?:changed|change|replaced|cleaned|swapped|fitted|(?:new|fresh)(?! plug)|checked and cleaned)(?: the| its| a| new| fresh| out)* {PART}(?:(?:,| and|,? &) (?:the |a |new )*{PART})*|serviced(?: it)?|(?:had|gave) it (?:a service|serviced)|repaired(?: it)?|oil change(?:d)?"),
    Phrase(E.ADJUST, r"(?:tightened|loosened|turned|turn|adjusted|opened|closed|backed|wound|tweaked|set|moved|screwed|upped|raised|lowered|eased|changed|nudged)(?: up| down| off| out| in| back| the| its| that| a bit)* (?:governor|screw|idle|throttle|speed|revs|avr|voltage pot|trim ?pot|pot)(?: screw)?(?: up| down| out| in| back| a| half| quarter| full| whole| one| two| bit| touch| little| turns?| of| hair| more)*"),
    Phrase(E.ADJUST, r"(?:(?:idle|governor|speed|trim) (?:screw|pot)|throttle|governor|avr)(?: was| is| up| down| opened| closed| turned| moved| wound| set)*(?: a| half| quarter| one| two| full| whole| bit| touch| little| turns?| of)+(?: up| down| in| out)*|governor(?: was| is)? (?:adjusted|tweaked|moved|turned|opened|closed|reset|set|raised|lowered)(?: up| down| a bit)?"),
    Phrase(E.REFILL, r"tank filled full|(?:with (?:a )?|on (?:a )?|started (?:with|on) (?:a )?|from (?:a )?|brim[- ]?)*(?:full tank|tank (?:is |was |now )*(?:brim(?:med|ful)?[- ]?full|full(?: to the (?:brim|top))?|brimmed|topped right up)|(?:filled|brimmed|topped) (?:it |her |the tank )?(?:right )?(?:up )?to the (?:brim|top|neck))(?= ?$| ?[,;.·–-]|<F>| <F>)", "full"),
    Phrase(E.REFILL, r"tank filled took|(?:takes |took |it took |needed )?<F>? ?to (?:fill|top)(?: it| her| the tank| back)*(?: up| off)?(?: again| full)?", "took"),
    Phrase(E.REFILL, r"re-?fuell?ed(?: up| it)?|fill(?:ed|ing)(?: it| her| the tank| the can| him)*(?: up)?(?! with water)|topp(?:ed|ing)(?: it| her| the tank| the fuel| up| off)+|fuell?ed up|poured(?: in)?(?= <F>)|tank filled|more (?:fuel|petrol|gas) in|(?:added|put in) (?:some |more |the )?(?:fuel|petrol|diesel|gas)|refill(?:ed)?"),
    Phrase(E.ECO, r"(?:eco|quiet|economy|power[- ]?sav(?:er|ing)|search|sleep)(?: mode| switch)?(?: is| was| now| switched| turned)*(?P<detail> off)"),
    Phrase(E.ECO, r"(?:eco|quiet|economy|power[- ]?sav(?:er|ing)|search|sleep) (?:mode(?: is| now| switched| turned)*(?: on)?|(?:is |now |switched |turned )?on)|eco"),
    # codes and lamps
    Phrase(E.TRIP, r"(?:out|off|gone|went|stopped|down)(?: again)? on overload(?: again)?(?: after| in)?(?: about)?", until=Until.TRIP),
    Phrase(E.CODE, rf"{EARTH_FAULT}(?: has| just| then| did| had)* (?:tripp?(?:ed|s)|went|popped|opened|kicked(?: out)?|let go)(?: off| out| again)?", "earth fault device tripped"),
    Phrase(E.CODE, r"(?:code )?(?P<detail>low oil(?: pressure)?|oil (?:pressure )?low|low on oil)(?: shut ?down| cut[- ]?out| warning)?"),
    Phrase(E.CODE, r"(?:error|err|fault|code|alarm)(?: code| no\.?| number| light)?(?: is| was|:)? ?(?P<detail>[a-z]{0,3}[- ]?\d{1,4}[a-z]?|<N>)(?: came| and| went| comes| goes| again| on the (?:screen|display)| flash\w*)*"),
    Phrase(E.CODE, r"(?:shows?|showed|showing|says|said|reads|flash\w*|displays?|throws?|threw|gives?|gave)(?: up| me| an| a| code| error| fault)* (?P<detail>[a-z]{1,3}-?\d{1,4})(?: on the (?:screen|display))?"),
    Phrase(E.CODE, r"(?P<detail>[ef]-?\d{1,3})(?= ?$| ?[,;·–-]| (?:and|then) )"),
    Phrase(E.CODE, r"(?P<detail>[ef]-?\d{1,3})(?: on the (?:screen|display)| on (?:screen|display)| came up| again| and gone)"),
    Phrase(E.CODE, r"(?P<detail>(?:co|carbon monoxide) (?:alarm|detector))(?: is| was| has| just| then)* (?:on|off|went(?: off)?|goes(?: off)?|going(?: off)?|sound\w*|beep\w*|rang|rings?|ringing|chirp\w*|flash\w*|triggered)(?! (?:is|was|in|tested))"),
    Phrase(E.CODE, r"code (?P<detail>(?:co|carbon monoxide) (?:alarm|detector))"),
    Phrase(E.CODE, r"(?:code )?(?P<detail>(?:red |low |amber |yellow )?(?:overload|over-load|oil|low oil|fault|warning|check|alarm|battery|bat|temp|temperature|over ?temp|engine|inverter|fuel|red|amber) (?:light|lamp|led|icon|symbol|indicator|warning|alarm))(?! (?:is |was |stays |stayed |still )*(?:quiet|silent|ok|okay|fine|never|not|works?|placed|fitted|hung|mounted|upstairs|downstairs|bought|checked|in (?:the|place)|reads|tested|green|off|out)\b)(?: is| was| came| comes| went| up| on| flickering| flickers| flashing| flashes| blinking| lit| again| now| showing)*"),
    Phrase(E.CODE, r"(?:code|shows?|showed|says|said|reads|it says|display says|with)? ?(?P<detail>overload(?:ed)?(?! (?:it|the|him|her)\b)|over ?temp(?:erature)?|low batt(?:ery)?|overheat(?:ed|ing)?|over ?load)(?: on the (?:screen|display)| warning| message)?"),
    # it went
    Phrase(E.TRIP, r"lost (?:the |its )?(?:output|power)|(?:output|power)(?: is| was)? (?:gone|lost|off)(?= ?$| ?[,;.–-])|(?:went|goes|gone) into (?:fault|overload|protection)|(?:bms|inverter|battery) (?:cut|dropped|killed) (?:the |its )?output|engine cut(?= ?$| ?[,;.–-])", until=Until.TRIP),
    Phrase(E.TRIP, r"(?:auto(?:matic)? |overload |thermal |and |then )*shutdown(?! (?:switch|button|point|volt\w*|level|temp\w*|by hand))(?: again)?(?: after| in| within)?(?: about)?", until=Until.TRIP),
    Phrase(E.CUT_OFF, r"(?:(?:low |high )?(?:volt(?:s|age) )?cut[- ]?(?:off|out)|(?:low|high) (?:volt(?:s|age) )?cut|(?:it )?(?:went |goes |cuts |cut |shuts? |drops |dropped |tripped |trips |turned |switched )?(?:off|out|itself off|down)|tripped|trips|lets go|let go)(?: at| by| on)? ?(?=<V>)", until=Until.NOTHING),
    Phrase(E.CUT_OFF, r"<V> (?:and |then )?off(?= ?$| ?[,;.–-])"),
    Phrase(E.BACK, r"(?:came |comes |come |is |it's |goes |went )?(?:back|on again|woke up|wakes up|recovered|recovers|restarts?)(?: on| in| up)?(?: again)?(?: at| by)? ?(?=<V>)"),
    Phrase(E.BACK, r"(?:it )?(?:came|comes|was|is) back(?: on)? (?:when|once|as)(?: the)?(?: volts| voltage| battery| it)*(?: was| is| had)* (?:reached|hit|hits|reaches|got to|at|back to|up to) (?:about )?(?=<V>)"),
    Phrase(E.RESET, r"(?:(?:came |come |it's |is )?back )(?:on |up )?(?:after|when|once) i (?:pressed|pushed|hit|reset|switched|turned|cycled)(?: the| it| its)*(?: reset| button| switch| power| off and on)*"),
    Phrase(E.BACK, rf"(?:it )?(?:came|comes|come|was|is|it's|got|went|goes)? ?(?:back|on again|live again|alive again|recovered|recovers|restarted|restarts|returned|reset|resets)(?: on| up| in| again| live)* {BY_ITSELF}(?: after| in| within)?(?: about)?", until=Until.BACK),
    Phrase(E.BEEP, r"(?:an |the |low |overload |battery )*(?:alarm|buzzer|siren) (?:went|goes|going) off(?! next)"),
    Phrase(E.BACK, rf"{BY_ITSELF} (?:came |comes )?back(?: on)?", until=Until.BACK),
    Phrase(E.BACK, r"(?:each |both |all )?(?:it )?(?:came|comes|come|restarted|back(?! in )|cleared|clears)(?: back| on| up| again| live)* (?:after|in|within)(?: about)? (?=<D>)", until=Until.BACK),
    Phrase(E.RESET, r"had to (?:hold|press|push|flip|cycle|reset|restart|switch|turn)(?: it| the| off| on| and| button| switch| power| again| back| in| down| breaker)*"),
    Phrase(E.RESET, r"(?:i )?(?:press(?:ed)?|push(?:ed)?|hit|held|thumbed)(?: the| its)* (?:reset|button|power)(?: button| switch)*|(?:power[- ])?cycled it|reset(?: it| done)?|re-?started(?: it| the (?:engine|set|generator|inverter))?|started it (?:up )?again|switched (?:it )?(?:back )?on again|turned it (?:back )?on(?: again)?"),
    Phrase(E.RESET, r"<!L>(?:it's |it is |is |came |now )*(?:back(?: on| up)(?: again)?|live again|on again|running again|power(?:'s)? back|back again|back now|came back|(?<!picked )(?<!pick )up again)(?! (?:to|at|near|around|above|over) )"),
    Phrase(E.RESET, r"(?<!the )(?:it's |is |and )?back(?=\s*(?:$|[,;.!·–-]))"),
    Phrase(E.BOG, r"(?:it |engine |set |she )*(?:can't|cannot|can not|could not|couldn't|won't|would not|wouldn't|did not|didn't|does not|doesn't|never) (?:quite |really |even )*(?:hold|held|carry|carried|keep up with|cope with|sustain|manage)(?= (?:the (?!meter|clamp|phone|camera|probe|torch|lead)|that |it|all|this|<F>|\d))"),
    Phrase(E.BOG, r"(?:<L> |it |engine |set )*(?:nearly|almost|just about) (?:stalled|stopped|died|stalls|stops|dies)(?: it| the set| the engine)?(?: but| and)*(?: held| holds| recovers| recovered| didn't stop| kept going| picked up| did not stop| carried on)*"),
    Phrase(E.TRIP, r"<=L>(?:stalled|stalls|stopped|killed|choked) (?:the )?(?:engine|set|genny|generator)", "engine stopped", Until.TRIP),
    Phrase(E.NOISE, r"hum(?:s|med|ming) (?:loudly|badly|a lot|terribly)"),
    Phrase(E.STALL, r"(?:won't|wouldn't|couldn't|can't|didn't|did not|would not|could not) (?:take|pull|carry|lift) (?:the |my )?(?=<L>)|<=L>(?:refused|refuses|is stuck|stuck|no go|locked up|seized)(?= ?$| ?[,;.–-])"),
    Phrase(E.STALL, r"(?:hums?|hummed|humming|growls?|buzz(?:es|ed)?)(?: and| but)? (?:won't|wouldn't|doesn't|didn't|does not|did not|will not|never) (?:start|turn|run|spin|go)(?:ed)?(?: up| over)?"),
    Phrase(E.TRIP, r"(?:the )?(?:(?:engine|motor of the set|genny|generator|genset|set) (?:stalled|stopped|died|quit|conked out|cut out)|it (?:stalled|conked out))(?: dead| completely| altogether)?", "engine stopped"),
    Phrase(E.NOISE, r"(?:transformer|inverter|alternator|<THING>|set|unit) (?:hums?|hummed|is humming|humming)(?: a bit| loudly| badly)?"),
    Phrase(E.STALL, r"(?:<=L>|start |start up )(?:failed|fails)(?:,? hums?)?|stall(?:s|ed|ing)?(?! (?:in|under|against|when cutting|on (?!the |my |a )))|(?:just |only )(?:hums?|hummed)(?: there)?|(?:<=L>(?:just |only )|motor )(?:hums?|hummed)(?: there)?(?! (?:\w+ )?(?:differ\w*|loud\w*|odd\w*|funny|strange\w*|nice\w*|along|away|more|a))|(?:won't|wouldn't|didn't|doesn't|did not|does not|would not|will not|couldn't|can't|never|failed to|refused to|refuses to)(?: even)? (?:start|turn over|turn|spin|get going|come up|run up|get up to speed)(?:ed)?(?: up| it)?"),
    Phrase(E.TRIP, r"(?:took|takes|brought|pulled|dropped|knocked|killed|kicked|threw|tripped|popped) (?:it|the set|the source|the inverter|the unit|the whole lot|everything|the lot|the generator|the station)(?: right)?(?: down| out| off)?(?! (?:right |straight )?(?:down )?to\b)", until=Until.TRIP),
    Phrase(E.TRIP, r"(?:main |its )?(?:<P> )?breakers? (?:(?:on|of|for) (?:the )?<P> )?(?:just )?(?:tripped|went|popped|blew|let go|jumped|opened|threw)(?: again| out| off)?(?: after| in)?(?: about)?|then (?:the |its )?breaker(?= ?$| ?[,;.–-])|(?:main |its |the )*(?:cb|mcb|circuit breaker) (?:tripp?(?:ed|s)?|popped|went|opened)", "breaker tripped", Until.TRIP),
    Phrase(E.TRIP, r"(?:bms|battery|it|inverter|protection)(?: just| then)? (?:shut|cut|turned|switched|knocked) (?:it all|everything|the lot|all of it)(?: down| off| out)?", until=Until.TRIP),
    Phrase(E.TRIP, rf"{IT}<!L>(?:shut(?:s|ting)?|turn(?:ed|s)|switch(?:ed|es)|cut(?:s)?|kick(?:ed|s)|click(?:ed|s)|knock(?:ed|s)|drop(?:ped|s)) (?:itself )?(?:off|down|out)(?! when)(?: by itself| on its own| again| at once| straight away| immediately| completely| dead| <T>)*(?: after| in| within)?(?: about)?", until=Until.TRIP),
    Phrase(E.TRIP, rf"{IT}(?:tripped|trips|trip)(?! over (?:the|a|my|it|his|her)\b)(?: out| off| again| on overload| at once| straight away| immediately| itself| <T>)*(?: after| in| within)?(?: about)?", until=Until.TRIP),
    Phrase(E.TRIP, rf"{IT}<!L>{GONE} (?:off|dark|dead|down(?! (?:to|by|from|a|about|in|on)\b)|out|black|silent|quiet|pop)(?: like a light| by itself| on its own| again| at once| straight away| immediately| completely| <T>)*(?: after| in| within)?(?: about)?", until=Until.TRIP),
    Phrase(E.TRIP, rf"{IT}(?:died|dies|quit|quits|conked out|(?:it|she|engine|genny|generator|inverter|set) packed up|packed it in|gave (?:up|out|in)(?! (?:on|to)\b)|let go|lets go|bailed out|threw in the towel|collapsed|blacked out|lost (?:output|power|it)|no (?:more )?(?:output|power|juice|lights|volts)|all dark|lights out|everything (?:dark|dead|went dark)|no dc|no ac)(?: on me| again| after| in| within| completely)*(?: about)?", until=Until.TRIP),
    Phrase(E.TRIP, r"(?:(?:it|and|then|set|engine|generator|inverter|unit|just|station|output) )+(?:stopped|stops)(?: dead| altogether| working| again)*(?: after| in)?(?: about)?(?=\s*(?:$|[,;.!·–-]|<D>))", until=Until.TRIP),
    Phrase(E.TRIP, rf"<!L>(?:it's |it |is |was |then |and )*off (?:{BY_ITSELF}|again|at once|straight away|immediately)(?: after| in)?(?: about)?", until=Until.TRIP),
    Phrase(E.TRIP, r"(?:it's |it |is |was |then |and )*off (?:after|in|within) (?:about )?(?=<D>)", until=Until.TRIP),
    Phrase(E.TRIP, r"(?:it's |it is |is |was |gone |all |output |completely |stone |now )*dead(?! quiet| ahead| on| calm| easy| slow| steady| smooth| right| flat| band| short| battery| set)(?: as a \w+)?", until=Until.TRIP),
    Phrase(E.TRIP, r"(?:and )?then (?:it )?(?:went )?off(?= ?$| ?[,;.·–-])", until=Until.TRIP),
    Phrase(E.TRIP, r"(?:all |everything |it's |gone )*dark(?= ?$| ?[,;·–-])", until=Until.TRIP),
    Phrase(E.TRIP, r"(?:then|and then) (?:silence|nothing|dark(?:ness)?)(?= ?$| ?[,;.·–-])", until=Until.TRIP),
    # what was seen, heard and felt
    Phrase(E.BEEP, r"(?:the )?(?:low[- ]?(?:volt\w*|batt\w*) )?(?:alarm|buzzer)(?= ?$| ?[,;·–-]| at| ?<F>| ?<N>)"),
    Phrase(E.BEEP, r"(?:it |keeps |kept |started |low |battery |inverter )*(?:beep(?:s|ed|ing)?|chirp(?:s|ed|ing)?|bleep(?:s|ed|ing)?|squeal(?:s|ed|ing)?)(?: at me| away| once| twice| loudly| continuously| constantly| every few seconds)*|(?:an |the )?(?:alarm|buzzer|siren)(?: is| was| keeps)* (?:going|sounds?|sounding|sounded|went|goes|rings?|on)(?: off)?"),
    Phrase(E.FLICKER, r"(?:the )?(?:lights?|lamps?|bulbs?|<L>)(?: on <P>)?(?: are| is| were| was)* (?:flicker(?:s|ed|ing)?|pulsing|dipping|dip(?:s|ped)?|(?:go(?:es)?|went|got) (?:dim|dimmer|yellow|brown)|brown(?:ed)?(?: out)?|dim(?:s|med|ming)?|blink(?:s|ed|ing)?|pulse(?:s|d)?|wobble(?:s|d)?|strobe(?:s|d)?)(?: a bit| briefly| slightly| badly| down)*"),
    Phrase(E.FLICKER, r"flicker(?:s|ed|ing|y)?(?: in the lights)?|(?:slight |bad |visible )?dimming"),
    Phrase(E.BOG, r"(?:engine |it |set |revs? |rpm )*(?:bog(?:s|ged|ging)?(?: right)?(?: down)?|labou?r(?:s|ed|ing)?(?: hard| badly)?|slow(?:s|ed|ing)?(?: right| way| really| a lot)* down(?: a lot| a bit| badly)?|struggl(?:es|ed|ing)|lug(?:s|ged|ging)|grunt(?:s|ed|ing)|sagged right down|nearly (?:stalled|stopped|died)|almost (?:stalled|stopped|died))(?: but| and)*(?: held| holds| recovers| recovered| didn't stop| kept going| picked up| did not stop| carried on)*"),
    Phrase(E.SMELL, r"(?<!no )(?:smells?(?! (?:fine|ok|okay|normal|good|nice|clean|of (?:cooking|coffee|food|bread|rain|dinner)))|smelt|smelled|smelling|stinks?|stank|whiff|reek\w*)(?: a bit| bit| very| like| of| something)*(?: hot| burn\w*| burnt| plastic| electrical| rubber| fishy| scorch\w*| petrol| gas| funny| bad)*|(?:burning|burnt|hot|funny|electrical|bit of a|a bit of|some) (?:plastic |electrical )?smell"),
    Phrase(E.SMELL, r"(?:some |a bit of |a wisp of |wisps of |white |blue |black |puff of |lots of )*(?:smok(?:e|es|ed|ing|y))(?! alarm| detector| near| near it| sign)(?: from| out of| off)?(?: the)?(?: <THING>)?", "smoke"),
    Phrase(E.WARM, r"(?P<detail><THING>)(?:'s)?(?: <IS>)*(?: <F>,?)?(?: <IS>)* <WARM>(?: to| the| touch| hold| handle| hand)*"),
    Phrase(E.WARM, r"(?<!start )(?<!starts )(?<!to )(?<!genny )(?<!engine )(?<!set )(?<!generator )(?<!let )(?<!let it )(?:<IS> )*<WARM>(?! ?<D>)(?! (?!to |the |at |after |near |by |but |and |on |under |already |again |now |all |<THING>|with |when |while |enough|as )[a-z])(?: to| the| touch| hold)*(?: (?P<detail><THING>))?(?! start)(?! up)(?!-up)(?! (?:soft |eased )?<L>)(?! day)(?! water)(?! air)"),
    Phrase(E.FAN, r"(?:the |its |cooling )?fans?(?: is| are| was| came| comes| kicked| kicks| cut| cuts| spins| spun| starts| running| now| just| both| still| went)* (?:runs?(?= ?$| ?[,;.–-])|on|in|running|loud|going|roaring|screaming|spinning|flat out|off|stopped|up)(?: flat out| full| high| low| up| down| hard| loud)*"),
    Phrase(E.NOISE, r"buzz(?:es|ed|ing)?|rattl(?:es|ed|ing)|whin(?:es|ed|ing)|growl(?:s|ed|ing)?|humm(?:ed|ing) (?:loudly|badly)|knock(?:s|ing)|screech\w*|backfir\w*|(?:odd|strange|funny|loud|bad|nasty) (?:noise|hum|buzz|rattle|whine)"),
    # how far the energy is
    Phrase(E.FULL, r"charg(?:e|ing) (?:is |was |now )*(?:finished|done|complete[d]?|ended|over)|finished charging|done charging"),
    Phrase(E.FULL, r"(?:charger|display|it|screen|light|station)? ?(?:says|shows|reads|is|it's|now|at last|finally)* ?(?:fully charged|full charge|charged full|topped out)|(?:charger|display|screen|light) (?:says|shows|reads) full"),
    Phrase(E.FULL, r"(?:it's |battery |now |is |finally )*(?<!brim )(?<!on )(?<!tank )(?<!half )full(?: now| at last| again)?(?=\s*(?:$|[,;.!·–-]|<F>|<T>))(?<!at full)"),
    Phrase(E.EMPTY, r"(?:ran|run|runs|went|gone|is|it's|dead|battery|now|totally|completely)* ?(?<!nearly )(?<!almost )(?<!half )(?:flat|empty)(?: now| again)?(?= ?$| ?[,;.!·–-]| <F>| <D>| <T>| at| after| in| by| and| as a)|(?:till|until) (?:it )?(?:was |ran |went )?(?:dry|empty|flat)|fuel (?:ran |is |was )?out|(?:ran|run|runs) (?:dry(?! \w)|out(?! of)|out of (?:fuel|gas|petrol|diesel|propane|juice|charge|battery|power))|(?:tank|bottle|can) (?:is |was |now |ran )*(?:bone )?(?:dry|empty)|bone dry|out of (?:fuel|gas|petrol|diesel|propane|juice|charge)", until=Until.HELD),
    # the course of the work
    Phrase(E.PAUSE, r"pause[ds]?(?: for \w+)?|pausing|taking a break|break for \w+|stopp(?:ed|ing) for (?:lunch|tea|dinner|breakfast|a break|the night)"),
    Phrase(E.RESUME, r"resum(?:e|ed|ing)|going on(?: with it)?|carry(?:ing)? on|carried on|continu(?:e|ed|ing)|back at it|picking up again"),
    Phrase(E.STEP, r"step done|next step|done with (?:this|that) step|step finished|on to the next(?: step| one)?"),
    Phrase(E.HELD, r"(?:started|starts|held|runs?|ran|took it|takes it|managed|made it|stood|carried it|carried|coped|copes|no sweat)(?: up| it| on)?(?: just| perfectly)? (?:fine|ok|okay|easily|well|happily|alright|all right|without (?:trouble|a hitch|complaint)|no (?:trouble|problems?|probs?|bother|drama|dramas|worries|issues?|fuss|complaints?))", until=Until.HELD),
    Phrase(E.HELD, r"<=L>starts?(?: up)? (?:ok|okay|fine|alright|all right|no problem|easily)(?= ?$| ?[,;.–-])"),
    Phrase(E.HELD, r"(?:it |and |but |still )*(?:held|(?<!socket )(?<!plug )(?<!cord )holds|held on|stood|stood it|hung on|hung in(?: there)?|took it|coped)(?! up (?:the|a|my)\b)(?! the| a| my| his| her| it with| it in)(?: it| up| on| steady| for| about| at)*(?! (?:the|a|my|his|her|wrong)\b)", until=Until.HELD),
    Phrase(E.HELD, r"(?:managed|handled|handles|carried|carries) (?:it|both|the lot|all of it|all of them|the <L>)(?: easily| fine| ok| okay| no problem| without trouble)*|(?:took|takes) (?:both|the lot|the <L>) (?:easily|fine|ok|okay|no problem)", until=Until.HELD),
    Phrase(E.HELD, r"without (?:any |a |one |so much as a )?(?:complaint|trouble|hitch|murmur|fuss|effort|problems?|grumble|hiccup)", until=Until.HELD),
    Phrase(E.HELD, r"no (?:trouble|problems?|probs?|bother|drama|dramas|worries|issues?|fuss|complaints?)(?= at| with| on| whatever)"),
    Phrase(E.HELD, r"<=D>(?:and )?(?:fine|ok|okay|no (?:trouble|problems?|probs?|bother|drama|dramas|worries|issues?|fuss|complaints?)|happy|easily|all good|solid)", until=Until.HELD),
    Phrase(E.HELD, r"<=D,>(?:fine|ok|okay|no (?:trouble|problems?|probs?|bother|drama|dramas|worries|issues?|fuss|complaints?)|all good|solid)", until=Until.HELD),
)  # fmt: skip
"""Tried in this order; what one has taken the next does not see."""
WORDS_OF = {"<THING>": THING, "<IS>": IS, "<WARM>": WARM, "<PANELS>": PANELS, "<P>": r"(?:leg|l) ?[12]"}
EXPLICIT_ALIASES = {
    "tripped": "trip",
    "dipped": "dip",
    "stalled": "stall",
    "started": "held",
    "flickered": "flicker",
    "hot": "warm",
    "paused": "pause",
    "resumed": "resume",
    "beeped": "beep",
    "bogged": "bog",
    "adjusted": "adjust",
    "serviced": "service",
    "refuelled": "refill",
    "cutoff": "cut_off",
}


@dataclass(frozen=True)
class Happened:
    """An event found in a line, where, and what a length beside it would tell."""

    name: EventName
    detail: str
    start: int
    end: int
    until: Until


def spelt(words: str) -> str:
    """A phrase with its word lists written out."""
    for name, listed in WORDS_OF.items():
        words = words.replace(name, listed)
    return words


PUT_ON = re.compile(
    r"\b(?:put|switch(?:ed)?|turn(?:ed)?|plug(?:ged)?|brought) (?:everything|all|it all|them|them all|the lot|the loads|[\ue004\ue005]+|the [\ue004\ue005]+) $"
)
"""``put everything back on``: loads, and not the source."""
OF_THE_SOURCE = frozenset(
    {E.TRIP, E.EMPTY, E.FULL, E.HELD, E.RESET, E.BACK, E.REFILL, E.ADJUST, E.FAN, E.BEEP, E.CODE, E.SERVICE}
)
"""Events whose words, with an object of their own, tell of something else."""
SPEED = re.compile(r"\d+(?:\.\d+)? ?(?:hz|hertz|rpm)\b")
DISPLAYS = re.compile(r"\b(?:display|screen|lcd|clock|radio|router|tv)\s+$")
OF_LOADS = re.compile(r"\s+(?:the |my |both )?\ue004")
OF_A_LOAD = re.compile(r"(?<![\d:.,])\d+(?:[.,]\d+)?\s*(?:hz|hertz|rpm|v|volts?|w|kw|a|amps?|db\w*)?\s*$")
"""``49.1 full``: at full load."""
LOAD = (FIRST["L"], REST["L"])
LOAD_WENT = re.compile(
    r"\bruns (?:for )?[\ue002\ue003]+ $|\ue004\ue005* (?:\w+ed |just |then |itself |runs? |ran |on |for |[\ue002\ue003]+ )*$"
)
BY_HAND = re.compile(r"\b(?:turned|switched|took|pulled|flipped|clicked) (?:it |that |them )?$")
"""``turned it off after 10 s``: somebody did."""
PATTERNS = tuple((phrase, spelt(phrase.words)) for phrase in PHRASES)


def take_events(line: MarkedLine, strangers: list[str]) -> Iterator[Happened]:
    """The events of a line, their words covered; ``strangers`` collects what went off and may not be the source."""
    stalled = False
    for phrase, words in PATTERNS:
        for match in list(line.find(words)):
            if not re.search(r"[a-z]", match[0]) or _means_another(phrase.name, match, line):
                continue
            if _is_of_another(phrase.name, match, line, stalled=stalled) or _did_not_happen(phrase.name, match, line):
                line.shield(match.start(), match.end())
                continue
            if phrase.name is E.TRIP and (stranger := stranger_before(line, match.start())):
                line.shield(match.start(), match.end())
                strangers.append(stranger)
                continue
            if phrase.name is E.CODE and re.search(r"\d[.,]\d", line.text[match.start() : match.end()]):
                continue  # ``alarm 22.4``: volts, and no code
            stalled = stalled or phrase.name is E.STALL
            yield _happened(phrase, match, line)


def _means_another(name: EventName, match: re.Match[str], line: MarkedLine) -> bool:
    """Whether the words are left to what else they may be: ``kettle clicked off by itself``, ``49.1 full``, ``set to 2 kw``."""
    before, after = line.low[: match.start()], match.end()
    if name is E.TRIP:
        load_went = LOAD_WENT.search(before) and match[0].startswith(("off", "then off", "and then off"))
        by_hand = re.match(r"(?:it |that |them )?off\b", match[0]) and BY_HAND.search(before)
        return bool(load_went or by_hand or OF_LOADS.match(line.low, after))
    if name is E.HELD:  # ``2 years old, runs ok``: of no load and no length
        return match[0].startswith(("run", "ran")) and not re.search(r"[\ue000\ue002\ue004\ue008]", line.low)
    if name is E.RESET:
        return bool(PUT_ON.search(before))
    if name is E.FULL:
        return bool(OF_A_LOAD.search(line.text[: match.start()].lower()))
    if name is E.ADJUST:
        return match[0].rstrip().endswith(" to") and not SPEED.match(line.text.lower(), after)
    return False


def _is_of_another(name: EventName, match: re.Match[str], line: MarkedLine, *, stalled: bool) -> bool:
    """Whether the words tell of something else than the source: ``tyres flat``, ``display came back``, ``ran out of paper``."""
    start, end = match.span()
    if name is E.TRIP and stalled and match[0].lstrip().startswith(("click", "and click")):
        return True  # ``hums and clicks off``: the motor's own protector
    if name in OF_THE_SOURCE and goes_on_otherwise(line, end):
        return True
    if name in (E.EMPTY, E.FULL, E.BEEP, E.FAN):
        return bool(stranger_before(line, start)) or line.low[:start].rstrip()[-1:] in LOAD
    if name in (E.RESET, E.BACK):
        of_display = DISPLAYS.search(line.low[:start])
        return bool(of_display or stranger_before(line, start) or other_after(line, end))
    return False


def _did_not_happen(name: EventName, match: re.Match[str], line: MarkedLine) -> bool:
    """Whether somebody did it by hand, or it is denied."""
    by_hand = name is E.TRIP and is_by_hand(line, match.start(), match.end())
    return by_hand or is_denied(line, match.start(), match.end())


def _happened(phrase: Phrase, match: re.Match[str], line: MarkedLine) -> Happened:
    """The event that a phrase tells of; its words are covered."""
    said = match.groupdict().get("detail")
    detail = phrase.detail or (line.text[slice(*match.span("detail"))].strip() if said else "")
    name = E.SERVICE if phrase.name is E.REFILL and is_of_oil(line) else phrase.name
    line.done(match)
    if said:
        line.mark(*match.span("detail"), "X")
    return Happened(name, detail, match.start(), match.end(), phrase.until)
