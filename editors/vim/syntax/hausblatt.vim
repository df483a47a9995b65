" Prepare files.
if exists('b:current_syntax')
  finish
endif
runtime syntax/hausblatt_words.vim
syntax match hausblattNote /#.*/ contained
syntax region hausblattLines start=/\%^/ end=/\%$/ contains=@hausblattInTag,hausblattNote
highlight default link hausblattNote Comment
syntax sync fromstart
let b:current_syntax = 'hausblatt'
