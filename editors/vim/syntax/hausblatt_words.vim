" The words, texts, numbers and signs of the template language, for tags and for prepare files.
syntax case match
syntax match hausblattName /[[:alpha:]_][[:alnum:]_]*/ contained
syntax match hausblattMember /\.\s*\zs[[:alpha:]_][[:alnum:]_]*/ contained
syntax match hausblattCall /[[:alpha:]_][[:alnum:]_]*\ze(/ contained
syntax match hausblattNumber /\<\d\+\%(\.\d\+\)\?\>/ contained
syntax match hausblattSign /[-+*/%=<>!|]/ contained
syntax keyword hausblattStatement contained if else each between none end let raw partial component tray slot into inherited
syntax keyword hausblattStatement contained use used answer redirect dump
syntax keyword hausblattWord contained given with before after in has and or not then as where group order by desc offset limit select
syntax keyword hausblattConstant contained true false nothing it
syntax match hausblattEscape /\\\%(u{\x\+}\|.\)/ contained
syntax region hausblattText start=/"/ skip=/\\./ end=/"/ contained contains=hausblattEscape
syntax region hausblattText start=/'/ skip=/\\./ end=/'/ contained contains=hausblattEscape
syntax cluster hausblattInTag contains=hausblattName,hausblattMember,hausblattCall,hausblattNumber,hausblattSign,hausblattStatement,hausblattWord,hausblattConstant,hausblattText

highlight default link hausblattBracket Delimiter
highlight default link hausblattStatement Statement
highlight default link hausblattWord Keyword
highlight default link hausblattConstant Constant
highlight default link hausblattNumber Number
highlight default link hausblattSign Operator
highlight default link hausblattText String
highlight default link hausblattEscape SpecialChar
highlight default link hausblattCall Function
highlight default link hausblattMember Identifier
highlight default link hausblattComment Comment
