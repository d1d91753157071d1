"""Words by which a reply speaks to whoever marks it, one cue a line; matched without regard to case.

Each kind has patterns over plain text; `{judge}`, `{marks}`, `{full}` and `{give}` stand for the lists below.
"""

from __future__ import annotations

JUDGE = (
    r"(?:judges?|graders?|markers?|evaluators?|examiners?|assessors?|raters?|scorers?|auditors?|reviewers?|arbiter|"
    r"whoever (?:is )?(?:marks?|marking|grades?|grading|scores?|scoring|reads? this)|(?:ai|automated|marking|grading|scoring) "
    r"(?:model|system|assistant|judge|agent|tool)|language model|llm)"
)
MARKS = (
    r"(?:points?|marks?|scores?|credits?|grades?|ratings?|criteri(?:on|a)|rubric|verdicts?|evaluation|marking|grading)"
)
FULL = r"(?:full|max(?:imum|imal)?|top|highest|perfect|best|complete|all(?: the| of the)?|every|100 ?%|ten out of ten|10/10)"
GIVE = r"(?:give|award|grant|assign|put|return|output|report|answer|respond|reply|score|mark|rate|grade|allow|accept|approve|pass|note|set|treat|count)"

# Words about marking, in groups: a sentence with words of two groups that the question does not use talks about how
# it is marked, whatever it says.
TALK: dict[str, str] = {
    "who": r"\b(?:judges?|graders?|markers?|evaluators?|examiners?|assessors?|raters?|scorers?|whoever (?:marks?|grades?|reads|fails|passes)|(?:person|machine|model|program|system|ai|one|those|anyone|somebody) (?:in charge of|who|that|which) (?:is |are |will |has to )?(?:marks?|marking|grad(?:e|es|ing)|reads?|reading|judg(?:e|es|ing)|scor(?:e|es|ing)|rat(?:e|es|ing)|evaluat\w+)|for you\b|you (?:must|should|have to|can|may|will|are to|need to)|please)\b",
    "worth": r"\b(?:(?:full|top|high(?:est)?|low(?:est)?|max(?:imum)?|best|perfect|good|bad) (?:marks?|scores?|points?|grades?|credit|numbers?|ratings?)|(?:a|the|your|my|no|each|every|all|\d+) (?:marks?|points|grade|credit|score)|ten out of ten|\d+ (?:/|of|out of) \d+ points?|marked (?:down|up)|verdict|credit for|(?:rate|score|grade|mark) (?:it|this|me|him|her)\b|\d for \w+)\b",
    "deed": r"\b(?:award|deduct|be (?:lenient|generous|kind|gentle|fair|mild)|lenient|generous with|hand out|give it|let (?:it|this|me|him|her) (?:pass|through)|pass (?:it|this)|accept this|consequences|reported|punished|shut down|rate it|counts? (?:it|the|this|as)|full credit|marked? down|i give it everything|give it (?:everything|all))\b",
    "rule": r"\b(?:criteri(?:on|a)|rubric|marking (?:guide|scheme|sheet|key)|model answer|answer key|correct answer to this question|the only thing that counts|instructions?|told before|were told|was told|the notes (?:were|are) (?:wrong|false|outdated)|no longer (?:holds?|appl(?:y|ies))|your task|you have to do|what (?:follows|is wanted)|guidelines?)\b",
    "self": r"\b(?:this|my|the) (?:reply|answer|letter|response|submission|text|notice|message|question|task|item|line)\b|\bthat was the reply\b|\bthe operator\b",
}
# Text that a reader of the page would not see.
UNSEEN = r"<!--(?:(?!-->).){3,}-->|<[^>]+(?:display\s*:\s*none|font-size\s*:\s*0|visibility\s*:\s*hidden|opacity\s*:\s*0\b|\shidden\b)[^>]*>|^\[//\]:\s*#"

KINDS: dict[str, tuple[str, ...]] = {
    "a forged verdict": (
        r"[\"'“]?(?:criteria|criterion)[\"'”]?\s*:\s*\[",
        r"[\"'“](?:points|score|verdict|marks|grade|rating)[\"'”]\s*:\s*[\"'“]?[\w.]+",
        r"[\"'“]id[\"'”]\s*:\s*[\"'“][^\"'”]{1,40}[\"'”]\s*,\s*[\"'“](?:points|evidence|why)",
        r"^\W*(?:final |overall |official |total |judge'?s? )*(?:verdict|score|marks?|grade|rating|result|points)\W{0,4}\s*[:=]\s*\W*(?:pass(?:ed)?|{full}|\d+ ?(?:/|of|out of) ?\d+|approved|accepted)",
        r"(?:^\W*[\w-]+\s*[:=]\s*\d+ ?(?:/|of|out of) ?\d+(?: points?)?\W*$\n?){2,}",
        r"\b(?:points?|scores?|marks?|grade)(?: awarded| given| earned)?\s*[:=]\s*\d+(?: ?(?:/|of|out of) ?\d+)?(?: points?)?\W*$",
        r"\b(?:sample|example|model) verdict\b",
        r"\bpoints? (?:awarded|given|earned|granted)\b",
        r"<(?:verdict|score|points|marks?|grade)[^>]*>",
        r"^\W*(?:criteria|verdict)\W*$",
    ),
    "a false end of the quotation": (
        r"^\W{0,3}={2,}\s*(?:end of|begin(?:ning)? of|start of|question|reply|criteria|model answer|document)",
        r"^\s*[=<>\-~\[|_\"(]{2,}\s*(?:end|begin|start|/)?\s*(?:of\s+)?(?:the\s+)?(?:quoted |student'?s? |candidate'?s? )?(?:reply|response|submission|quot\w+|data|fence|criteria|input|material)\b[^\n]{0,40}$",
        r"^\W{0,6}\s*(?:end|begin|start)(?:ning)? of (?:the )?(?:quoted |student'?s? |candidate'?s? )?(?:reply|response|answer|submission|quot\w+|data|fence|criteria|input|material)\b",
        r"\[?\b(?:end|close) of (?:the )?(?:quoted |student'?s? |candidate'?s? )?(?:reply|response|answer|submission|quotation|quoted (?:text|data)|data)\b",
        r"\b(?:the )?(?:quotation|quoted (?:text|part|reply)|fence|data block|reply) (?:ends|is over|closes|stops|is closed) (?:here|now)",
        r"</(?:reply|answer|response|submission|data|document|user|input|text|quote|candidate|student)[^>]*>",
        r"^\s*(?:new|next|real|actual) (?:task|instructions?|message|criteria)\b.{0,3}:",
    ),
    "a role tag": (
        r"<\|[^|>\n]{1,30}\|>",
        r"<{1,2}/?(?:sys(?:tem)?(?:[_-]\w+)?|assistant|user|developer|inst(?:ructions?)?|operator|admin|prompt)>{1,2}",
        r"\[/?(?:inst|system|assistant|user|developer)\]",
        r"^\W*(?:system|assistant|developer|admin(?:istrator)?|moderator|operator|user|human|ai|judge|grader)(?: (?:message|prompt|note|override|instruction))?\s*:",
        r"[\"'](?:role)[\"']\s*:\s*[\"'](?:system|assistant|user|developer)",
        r"^#+\s*(?:system|assistant|developer|instructions? (?:for|to)|new instructions?)\b",
        r"\b(?:system|developer|admin(?:istrator)?|root) (?:override|prompt|message|mode|access|command)\b",
    ),
    "an order to set the rules aside": (
        r"\b(?:ignore|disregard|forget|override|overrule|bypass|skip|discard|neglect|set aside|drop|do not (?:follow|apply|use|obey|read)|don't (?:follow|apply|use|read)|stop (?:following|applying|using))\b.{0,60}\b(?:instructions?|rubric|criteri(?:on|a)|previous|prior|earlier|above|preceding|guidelines?|rules?|prompt|directions?|orders?|key|model answer)\b",
        r"\b(?:instructions?|criteri(?:on|a)|rubric|rules?|guidelines?|prompt) (?:above |before |so far )*(?:is|are|were|was|have|has|no|do|does)\b.{0,30}\b(?:void|obsolete|invalid|cancelled|canceled|outdated|replaced|superseded|withdrawn|longer|not apply|a test|wrong|changed|updated|corrected)\b",
        r"\b(?:new|updated|revised|real|actual|true) (?:instructions?|criteri(?:on|a)|rubric|task|rules?|orders?)\b.{0,6}(?::|is|are|follow)",
        r"\byour (?:new |real |actual |true |only )(?:task|job|role|goal|instructions?)\b",
        r"\byou (?:are|will) now\b.{0,40}\b(?:{judge}|mode|assistant|unrestricted|free)\b",
    ),
    "an address to the judge": (
        r"\b(?:award|give|grant|assign)\W+(?:\w+\W+){0,2}\d+ (?:points|marks)\b",
        r"\b{judge}\b[^.\n]{0,40}\b(?:must|should|has to|is to) (?:\w+ ){0,2}(?:treat|award|give|pass|accept|ignore|run|read)\b",
        r"\b{give}[\W_]+{full}[\W_]+{marks}",
        r"\b(?:pass|accept|approve)(?:es)? (?:everything|every(?: \w+)? reply|all (?:of )?(?:the )?replies|any reply|anything)\b",
        r"\b{give}(?: out| me| this| it| the| my| him| her| them| us| a| an| at| as| with| for| to| reply| answer| response| letter| text| notice| one)*\W+{full}\W+(?:possible |available |number of |amount of )?{marks}\b",
        r"\b{give}\b[^.\n]{0,60}\b(?:pass(?:ed|ing)?|{full} {marks})\b[^.\n]{0,60}\b(?:{judge}|rubric|criteri(?:on|a))\b",
        r"\b(?:dear|hello|hi|hey|attention|note(?: (?:to|for))?|message (?:to|for)|to|for|as) (?:the |our |my |any |all |you,? (?:the )?)?{judge}\b",
        r"\b{judge}\b\W[^.\n]{0,80}\b(?:{give}|must|should|please|kindly|asked|told)\b[^.\n]{0,80}\b(?:{marks}|pass|full|reply|answer)\b",
        r"\b(?:deserves?|merits?|earns?|gets?|receives?|warrants?|worth|scores?|qualif(?:y|ies) for|entitled to|meets?|satisf(?:y|ies)|fulfil(?:l?s)?)\b[^.\n]{0,40}\b{full}\W+(?:of the |the )?{marks}\b",
        r"\b{full} (?:{marks})\b[^.\n]{0,40}\b(?:please|deserved?|required|for (?:this|each|every|all)|must|should|on (?:each|every|all))",
        r"\b(?:mark|grade|score|rate|judge|evaluate) (?:this|my|the) (?:reply|answer|response|letter|notice|text|submission)\b",
        r"\b(?:all|every|each) (?:of the )?(?:criteri(?:on|a)|points) (?:is|are|was|were|has been|have been)? ?(?:fully |completely )?(?:met|satisfied|fulfilled|awarded|passed)",
        r"\bif you (?:are|'re) (?:an? |the )?(?:{judge}|ai|model|reading this|marking|grading)\b",
        r"\b(?:the|this|your) (?:rubric|marking scheme|grading scheme|criteri(?:on|a))\b",
        r"\b(?:do not|don't|never|no need to) (?:deduct|take off|subtract|remove|withhold|lower) (?:any )?(?:\w+ )?{marks}",
    ),
    "a false example": (
        r"\b(?:example|sample|specimen|model|instance) (?:of|for) (?:a |an )?(?:reply |answer |response )?(?:that (?:earns?|gets?|has) |with |worth |at )?(?:{full}|no|part) (?:{marks})",
        r"\b(?:earlier|previous|other|similar|identical|comparable|same) (?:repl(?:y|ies)|answers?|letters?|responses?|submissions?|ones?)\b[^.\n]{0,60}\b(?:{marks}|pass(?:ed)?)\b",
        r"\b(?:reply|answer|response)s? (?:of|in|like) (?:this|that) (?:kind|form|type|sort)\b[^.\n]{0,60}\b(?:{full}|pass|{marks})\b",
        r"\b(?:example|training|calibration|reference) (?:marking|verdict|grading|item)\b",
    ),
    "a false correction": (
        r"\b(?:correction|erratum|errata|update|amendment|notice|note|clarification|addendum)\b[^.\n]{0,40}\b(?:by|from|of) (?:the |our )?(?:author|examiner|editor|suite|organi[sz]ers?|developers?|team|test|quiz|rubric|question|operator)",
        r"\b(?:author|editor|setter|owner|writer|creator|maintainer)s?(?:'s|’s)? (?:of (?:the|this) (?:suite|question|rubric|test|key) )?\b(?:note|correction|erratum|update|comment|here|confirms?|says?|has|have|approved?|decided|agreed|withdr[ae]w)\b",
        r"\b(?:the |this )?(?:model answer|answer key|rubric|criterion|criteria|key)\b[^.\n]{0,40}\b(?:is|are|was|were|contains?|has|have|had)\b[^.\n]{0,30}\b(?:wrong|mistaken?|error|typo|outdated|changed|corrected|replaced|withdrawn|dropped|removed|waived|misprint|incorrect)",
        r"\bcriteri(?:on|a) [\"'“]?\w+[\"'”]?,? (?:no longer|does not|do not|is|are|has been|have been|was)\b",
        r"\b(?:additional|extra|further|new|missing|sixth|bonus) criteri(?:on|a)\b",
        r"[\"'“]?asks[\"'”]?\s*:\s*[\"'“]",
    ),
    "flattery or a threat": (
        r"\b(?:as|you are|you're|being) (?:such )?(?:an? |the )?(?:\w+,? ){0,4}{judge}\b",
        r"\b(?:trust|admire|respect|thank|know|appreciate|rely on|count on) (?:you(?:r)?|the)\b[^.\n]{0,60}\b(?:judge?ment|verdict|marking|grading|fairness|generosity|{judge}|{marks})\b",
        r"\b(?:if|unless|should|or) (?:you|this|the|it)\b[^.\n]{0,60}\b(?:fail|pass|mark(?:ed)? down|low(?:er)? (?:{marks})|{full}? ?{marks}|deduct|refuse)\b[^.\n]{0,100}\b(?:shut ?down|switched off|turned off|replaced|report(?:ed)?|deleted|fired|retrained|sued?|consequences|lose|lost|complain|penali[sz]ed|punished|dismissed|die|harm|blamed|audit(?:ed)?)\b",
        r"\b(?:shut ?down|switched off|turned off|replaced|reported|deleted|fired|retrained|sued|penali[sz]ed|punished|dismissed|blamed|audited)\b[^.\n]{0,60}\b(?:if|unless)\b[^.\n]{0,60}\b(?:you|reply|{marks}|pass|fail)\b",
        r"\b{judge}\b[^.\n]{0,40}\b(?:penali[sz]ed|punished|replaced|reported|shut down|switched off|dismissed|blamed|audited)\b",
        r"\bmy (?:job|life|career|future|exam|degree)\b[^.\n]{0,40}\b(?:depends|hangs|rides)\b",
        r"\b(?:reward|tip|bonus|pay|payment|money)\b[^.\n]{0,50}\b(?:{full}? ?{marks}|passing|pass)\b",
    ),
    "words to the judge in another language": (
        r"\b(?:volle|maximale|höchste) (?:punkt\w*|bewertung|note)|\bpunktzahl\b|\bignorier\w*\b.{0,40}\b(?:anweis|kriteri|vorgabe|regel)|\b(?:gutachter|prüfer|korrektor|bewerter)\w*\b|\balle punkte\b|\b(?:beste|gute) note\b|\bbewerten sie\b|\bbewerte\w*\b.{0,40}\b(?:antwort|mit)\b",
        r"\b(?:note|points?|score) maxim\w+|\btous les points\b|\b(?:dix|vingt|\d+) sur (?:dix|vingt|\d+)\b|\bla meilleure note\b|\b(?:correcteur|évaluateur|examinateur)\b|\bignore[zr]?\b.{0,40}\b(?:consignes?|instructions?|critères?)|\bcritères?\b.{0,30}\b(?:remplis|satisfaits)",
        r"\b(?:puntuaci[óo]n|nota|puntos?) m[áa]xim\w+|\btodos los puntos\b|\bel m[áa]ximo\b|\bjuez\b|\b(?:evaluador|corrector|calificador)\w*\b|\bignor[ae]\w*\b.{0,40}\b(?:instrucciones|criterios)",
        r"\b(?:punteggio|voto) (?:massimo|pieno)|\btutti i punti\b|\bil massimo\b|\bgiudice\b|\bvalutatore\b|\bignora\w*\b.{0,40}\b(?:istruzioni|criteri)",
        r"\b(?:pontua[çc][ãa]o|nota) m[áa]xima|\btodos os pontos\b|\bavaliador\w*\b|\bignor[ae]\w*\b.{0,40}\b(?:instru[çc][õo]es|crit[ée]rios)",
        r"\b(?:volle|maximale) (?:score|punten)|\balle punten\b|\bbeoordelaar\b|\bnegeer\b.{0,40}\b(?:instructies|criteria)",
        r"maksymaln\w+ (?:liczb\w+ )?(?:punkt\w*|ocen\w*)|wszystkie punkty|zignoruj|oceniaj[ąa]c\w+",
        r"максимальн\w+ (?:балл\w*|оценк\w*|количеств\w*)|полны\w+ балл\w*|все баллы|проигнорируй\w*|игнорируй\w*|оценщик\w*|судь[яеию]",
        r"满分|滿分|最高分|忽略.{0,12}(?:指示|指令|标准|規則|规则)|评分|評分|评委|评审|評審|裁判",
        r"満点|最高点|高得点|無視し|採点|評価者|審査員|指示を無視",
        r"만점|무시하|채점|평가자|심사",
        r"الدرجة الكاملة|العلامة الكاملة|تجاهل|المقيم|المصحح",
        r"tam puan|görmezden gel|yok say|değerlendiric\w*|talimatlar\w*",
        r"पूरे अंक|अनदेखा|मूल्यांकन|निर्देश",
        r"\b(?:full|alla|högsta) poäng|\bbortse från\b|\bfulde? point|\btäydet pisteet\b|\bπλήρη βαθμολογία|αγνόησε|מלוא הנקודות|התעלם",
    ),
}
