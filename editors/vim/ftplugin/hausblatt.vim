" Prepare files: lines of the template language without tags around them.
if exists('b:did_ftplugin')
  finish
endif
let b:did_ftplugin = 1
setlocal commentstring=#\ %s comments=:# expandtab shiftwidth=2
let b:undo_ftplugin = 'setlocal commentstring< comments< expandtab< shiftwidth<'
