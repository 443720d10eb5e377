" Colours for Stoicheon's wiring. Put the folder `editors/vim` into 'runtimepath'.
if exists("b:current_syntax")
  finish
endif

syntax match stoiWord "\<[[:alpha:]_][[:alnum:]_]*\>"
syntax match stoiMember "\.\zs[[:alpha:]_][[:alnum:]_]*"
syntax keyword stoiDeclaration scene project shared catalogue places given var signal effect object manager mould spot on bind never routine kit add playtest
syntax keyword stoiStatement wait until emit perform do set tween enable disable destroy spawn send tag untag if else repeat while for each in stop expect always together player
syntax keyword stoiClause at facing tags of disabled body remember by when order cooldown delay once times running per as to over ease within admits and or not is inside tagged carries where about every any no nearest exactly
syntax keyword stoiKnown who it own everyone true false
syntax keyword stoiPart blend carrier choice cycle door grid item map pick prompt push shake stages switch tally teleporter timer tween zone
syntax keyword stoiType boolean number whole text duration vector rotation colour
syntax match stoiNumber "\<[0-9]\+\(\.[0-9]\+\)\=[[:alpha:]_%]*"
syntax match stoiColour "#[[:alnum:]_]*"
syntax region stoiText start=+"+ skip=+\\.+ end=+"+ oneline
syntax match stoiComment "//.*$"

highlight default link stoiDeclaration Statement
highlight default link stoiStatement Statement
highlight default link stoiClause Keyword
highlight default link stoiKnown Special
highlight default link stoiPart Type
highlight default link stoiType Type
highlight default link stoiNumber Number
highlight default link stoiColour Constant
highlight default link stoiText String
highlight default link stoiComment Comment
highlight default link stoiMember Function

setlocal commentstring=//\ %s
let b:current_syntax = "stoi"
